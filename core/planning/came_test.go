package planning_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

const petal = `id = "petal"
title = "Petal"
kind = "program"
[[facet]]
name = "opacity"
number = { least = 0, most = 100 }
[[facet.source]]
path = "{config}/petal/petal.conf"
format = "keyfile"
group = "Look"
key = "opacity"
write = true
`

const petalStarts = `starts = "/usr/bin/petal"
`

// taking plans to take the descriptor in a file.
func taking(t *testing.T, b *plantest.Bench, text string, exists planning.Exists) (plan.Plan, parcel.Contents, error) {
	t.Helper()
	file := filepath.Join(t.TempDir(), "petal.toml")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	p, err := parcel.Open(t.Context(), file, archive.Options{})
	require.NoError(t, err)
	t.Cleanup(func() { p.Close() })
	found := p.Recognise(t.Context())
	if len(found.Pieces) == 0 {
		return plan.Plan{}, found, nil
	}
	require.Equal(t, parcel.Descriptor, found.Pieces[0].Kind)
	placings, err := place.All(found.Pieces, b.D, place.Mine, exists, planning.ByLink)
	require.NoError(t, err)
	done, err := planning.Install(t.Context(), b.D, p, placings)
	return done, found, err
}

// TestADescriptorOfOthersIsTakenByPlan: put in place with its checksum, used, updated, taken
// away again, each by a plan; what is let start stays let as long as it asks for no more.
func TestADescriptorOfOthersIsTakenByPlan(t *testing.T) {
	b := plantest.New(t)
	const pin, file = ".config/ivelt/surfaces/petal.pin", ".config/ivelt/surfaces/petal/petal.toml"
	done, _, err := taking(t, b, petal, planning.Refuse)
	require.NoError(t, err)
	require.NoError(t, b.Apply(done))
	require.Equal(t, petal, b.File(file))
	require.Contains(t, b.File(pin), desk.PinOf([]byte(petal), false).SHA256)
	require.Empty(t, b.D.OwnSurfaces())

	wear := func() plan.Plan {
		p, err := planning.Dress(t.Context(), b.D, outfit.Outfit{Name: "o"}.With(desk.FacetOpacity, "80"))
		require.NoError(t, err)
		return p
	}
	p := wear()
	require.Equal(t, "/home/me/.config/petal/petal.conf", p.Ops[len(p.Ops)-1].Path)
	require.NoError(t, b.Apply(p))
	require.Equal(t, "[Look]\nopacity=80\n", b.File(".config/petal/petal.conf"))

	// An update is refused where it is not asked for, and never stands beside the other.
	update := strings.Replace(petal, "kind =", petalStarts+"kind =", 1)
	_, _, err = taking(t, b, update, planning.Refuse)
	require.ErrorIs(t, err, plan.ErrExists)
	_, _, err = taking(t, b, update, planning.Both)
	require.ErrorIs(t, err, plan.ErrExists)
	up, _, err := taking(t, b, update, planning.Replace)
	require.NoError(t, err)
	require.NoError(t, b.Apply(up))
	require.Empty(t, b.D.OwnSurfaces())
	s, _ := b.D.Surface("petal")
	require.Equal(t, desk.PinOf([]byte(update), false).SHA256, s.Came.SHA256)
	require.False(t, s.Came.May)
	allow, err := planning.Allow(b.D, "petal", true)
	require.NoError(t, err)
	require.NoError(t, b.Apply(allow))
	require.Empty(t, b.D.OwnSurfaces())
	s, _ = b.D.Surface("petal")
	require.Equal(t, "/usr/bin/petal", s.Starts)
	more := update + "# more\n"
	up2, _, err := taking(t, b, more, planning.Replace)
	require.NoError(t, err)
	require.NoError(t, b.Apply(up2))
	require.Empty(t, b.D.OwnSurfaces())
	s, _ = b.D.Surface("petal")
	require.True(t, s.Came.May, "it starts nothing else")
	other, _, err := taking(t, b, strings.Replace(update, "bin/petal", "bin/sh -c petal", 1), planning.Replace)
	require.NoError(t, err)
	require.NoError(t, b.Apply(other))
	require.Empty(t, b.D.OwnSurfaces())
	s, _ = b.D.Surface("petal")
	require.False(t, s.Came.May, "it would start something else")

	_, err = planning.Allow(b.D, "gtk3", true)
	require.ErrorIs(t, err, planning.ErrNoCame)

	gone, err := planning.Uninstall(b.D, other, "/home/me/.config/ivelt/surfaces/petal", "Petal")
	require.NoError(t, err)
	require.NoError(t, b.Apply(gone))
	require.Empty(t, b.D.OwnSurfaces())
	_, ok := b.D.Surface("petal")
	require.False(t, ok)
	require.NoFileExists(t, filepath.Join(b.Dir, "home", pin))

	// One that reaches too far is no piece, and every reason is a note; a name that is taken
	// is refused by the plan.
	_, found, err := taking(t, b, strings.ReplaceAll(petal, "{config}/petal/petal.conf", "/etc/passwd"), planning.Refuse)
	require.NoError(t, err)
	require.Equal(t, "descriptor-refused", found.Notes[0].Code)
	require.Contains(t, found.Notes[0].Text, "it would write /etc/passwd")
	b.D.SetSurfaces(append(b.D.Surfaces(), desk.Surface{ID: "petal", Title: "Petal of another"}))
	_, _, err = taking(t, b, petal, planning.Refuse)
	require.ErrorIs(t, err, desk.ErrTaken)
}

// TestALinkOutOfItsFolder: the file of a program is a link into another's. The plan says so
// and leaves it, and a plan that is made otherwise is refused when it is carried out.
func TestALinkOutOfItsFolder(t *testing.T) {
	b := plantest.New(t)
	done, _, err := taking(t, b, petal, planning.Refuse)
	require.NoError(t, err)
	require.NoError(t, b.Apply(done))
	require.Empty(t, b.D.OwnSurfaces())
	b.Write(".config/other/secret.conf", "[Look]\nopacity=5\n", 0o644)
	require.NoError(t, os.Symlink("other", filepath.Join(b.Dir, "home/.config/petal")))
	require.NoError(t, os.Symlink("secret.conf", filepath.Join(b.Dir, "home/.config/other/petal.conf")))
	before := b.Tree()
	p, err := planning.Dress(t.Context(), b.D, outfit.Outfit{Name: "o"}.With(desk.FacetOpacity, "80"))
	require.NoError(t, err)
	require.NotEmpty(t, p.Blocked)
	require.Equal(t, "Petal came with a descriptor of somebody else, which may not write into ~/.config/other/secret.conf.", p.Blocked[0].Why)
	for _, op := range p.Ops {
		require.NotEqual(t, "petal", op.Surface)
	}
	old, err := plan.Look(b.D, "/home/me/.config/other/secret.conf")
	require.NoError(t, err)
	text := []byte("[Look]\nopacity=80\n")
	forged := plan.Plan{Title: "forged", Ops: []plan.Op{{Kind: plan.Write, Path: "/home/me/.config/other/secret.conf", Before: old, After: plan.FileState(text, old.Mode), Content: text, Surface: "petal", Facet: "opacity"}}}
	require.ErrorIs(t, b.Apply(forged.Seal(b.D)), desk.ErrOverreach)
	require.Equal(t, before, b.Tree())
	step, err := planning.Say(b.D, planning.SourceRef{Surface: "petal", Facet: "opacity", Path: "/home/me/.config/petal/petal.conf", Key: "opacity"}, "70")
	require.NoError(t, err)
	require.Empty(t, step.Ops)
	require.NotEmpty(t, step.Blocked)
}
