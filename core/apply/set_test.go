package apply_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

const (
	theme = "/org/example/theme"
	shade = "/org/example/shade"
)

// setting is the operation that gives a setting of the bench a value.
func setting(t testing.TB, b *plantest.Bench, path string, to desk.Value) plan.Op {
	t.Helper()
	before, err := plan.Look(b.D, desk.OfSetting(path))
	require.NoError(t, err)
	return plan.Op{Kind: plan.Set, Path: desk.OfSetting(path), Before: before, After: plan.SettingState(to), Surface: "gtk4", Facet: "dark", Effect: plan.AtOnce}
}

// settings is a plan that sets one setting, changes another, takes a third out, and writes
// a file.
func settings(t testing.TB, b *plantest.Bench) plan.Plan {
	require.NoError(t, b.D.Settings.Change(map[string]desk.Value{shade: plantest.Text("light"), "/org/example/old": plantest.Text("x")}))
	p := b.Dress("New")
	p.Ops = append(p.Ops, setting(t, b, theme, plantest.Text("Reed")), setting(t, b, shade, plantest.Text("dark")), setting(t, b, "/org/example/old", desk.Value{}))
	return p.Seal(b.D)
}

// TestSettingsOfTheDesktop are set and given back as files are, by the service that keeps
// them; what somebody else sets stays.
func TestSettingsOfTheDesktop(t *testing.T) {
	b := plantest.New(t)
	has := func(path string) desk.Value {
		v, err := b.D.Settings.Value(path)
		require.NoError(t, err)
		return v
	}
	p := settings(t, b)
	before := b.Tree()
	require.Equal(t, "setting "+theme, b.D.Show(p.Ops[len(p.Ops)-3].Path))
	require.False(t, p.Ops[len(p.Ops)-1].Admin)
	require.NoError(t, b.Apply(p))
	require.Equal(t, plantest.Text("Reed"), has(theme))
	require.Zero(t, has("/org/example/old"))

	// Somebody sets one of them: it is asked about, and stays; the others go back.
	require.NoError(t, b.D.Settings.Change(map[string]desk.Value{shade: plantest.Text("dusk")}))
	r := b.Back(planning.Aim{}, p)
	require.Len(t, r.Conflicts, 1)
	c := r.Conflicts[0]
	require.Equal(t, []string{"'light'\n", "'dark'\n", "'dusk'\n"}, []string{string(c.Before), string(c.Left), string(c.Now)})
	require.Equal(t, planning.TakeNow, c.Taken)
	r = b.Back(planning.Aim{Takes: map[string]planning.Take{desk.OfSetting(shade): planning.TakeBefore}}, p)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, before, b.Tree())
	require.Empty(t, b.Back(planning.Aim{Surface: "gtk3"}, p).Plan.Ops)

	// What was set since the plan was made is not written over, nor anything else done.
	require.NoError(t, b.D.Settings.Change(map[string]desk.Value{theme: plantest.Text("Mine")}))
	before = b.Tree()
	require.ErrorIs(t, b.Apply(p), plan.ErrChanged)
	require.Equal(t, before, b.Tree())
	require.NoError(t, b.D.Settings.Change(map[string]desk.Value{theme: {}}))

	// The service is gone: nothing is changed, and what was is put back when it answers again.
	of := b.D.Settings.(*plantest.Settings)
	before = b.Tree()
	c2 := b.Config()
	c2.Before = func(call apply.Call) error {
		if call.Name == "change" && call.Path == shade {
			of.Gone = errors.New("it has left the bus")
		}
		return nil
	}
	require.ErrorContains(t, apply.Plan(t.Context(), b.D, p, c2), "left the bus")
	require.FileExists(t, b.Journal)
	_, err := apply.Recover(b.D, b.Config())
	require.ErrorContains(t, err, "left the bus")
	of.Gone = nil
	_, err = apply.Recover(b.D, b.Config())
	require.NoError(t, err)
	require.Equal(t, before, b.Tree())
	b.D.Settings = nil
	require.ErrorIs(t, b.Apply(p), plan.ErrWrite)
	require.ErrorIs(t, planning.HandedOver(b.D, p), planning.ErrPath, "a plan of strangers sets nothing that no surface asks for")
}
