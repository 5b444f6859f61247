package app_test

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
)

// newDesk is a desk of its own with an Ivelt that may write to it.
func newDesk(t *testing.T) (*app.App, *app.Desk) {
	t.Helper()
	dir := t.TempDir()
	return openDesk(t, dir)
}

func openDesk(t *testing.T, dir string) (*app.App, *app.Desk) {
	t.Helper()
	d := deskIn(t, dir, "d")
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*app.Desk{d}})
	require.NoError(t, err)
	t.Cleanup(func() { _ = a.Close() })
	return a, d
}

// TestAReviewedPlanIsOfItsOwnOutfit: a plan is reviewed, the draft is changed
// elsewhere, and the plan is applied. What it was made from is what is worn, and
// what leaves the draft.
func TestAReviewedPlanIsOfItsOwnOutfit(t *testing.T) {
	for _, try := range []time.Duration{0, time.Hour} {
		a, d := newDesk(t)
		choose := func(facet, want string) {
			_, err := a.Choose(d, facet, want)
			require.NoError(t, err)
		}
		choose(desk.FacetPointerSize, "32")
		choose(desk.FacetFont, "Sans 9")
		reviewed, err := a.Review(t.Context(), d, nil, plan.Options{})
		require.NoError(t, err)
		choose(desk.FacetPointerSize, "48") // in another tab
		choose(desk.FacetDark, "dark")
		j, err := a.Apply(d, reviewed.Plan.ID, app.Order{Try: try})
		require.NoError(t, err)
		require.NoError(t, j.Wait())
		if try > 0 {
			now, ok := a.Trial(d)
			require.True(t, ok)
			require.Error(t, a.KeepTrial(d, now.Checkpoint+1), "another trial than the one that is seen")
			_, err := a.EndTrial(d, now.Checkpoint+1, "")
			require.Error(t, err)
			require.NoError(t, a.KeepTrial(d, now.Checkpoint))
		}
		worn, err := a.Worn(d)
		require.NoError(t, err)
		require.Equal(t, "32", worn.Want(desk.FacetPointerSize), "as the files say")
		require.Empty(t, worn.Want(desk.FacetDark))
		draft, err := a.Draft(d)
		require.NoError(t, err)
		require.Equal(t, []string{desk.FacetDark, desk.FacetPointerSize}, draft.Facets(), "what was chosen meanwhile stays")
		require.Equal(t, "48", draft.Want(desk.FacetPointerSize))

		reviewed, err = a.Review(t.Context(), d, nil, plan.Options{})
		require.NoError(t, err)
		j, err = a.Apply(d, reviewed.Plan.ID, app.Order{})
		require.NoError(t, err)
		require.NoError(t, j.Wait())
		draft, err = a.Draft(d)
		require.NoError(t, err)
		require.Empty(t, draft.Choices)
		back, err := a.ReviewBack(d, app.Way{Checkpoint: 1}, nil)
		require.NoError(t, err)
		_, err = a.Apply(d, back.Return.Plan.ID, app.Order{})
		require.ErrorContains(t, err, "not the plan of a look")
	}
}

// TestAPlanHandedOverSaysWhatIsWorn: it carries its outfit, as any plan of one.
func TestAPlanHandedOverSaysWhatIsWorn(t *testing.T) {
	a, d := newDesk(t)
	p, err := plan.Dress(d.Desk, outfit.Outfit{Name: "Large"}.With(desk.FacetPointerSize, "48"))
	require.NoError(t, err)
	_, j, err := a.ApplyHandedOver(d, jsonOf(t, p), false)
	require.NoError(t, err)
	require.NoError(t, j.Wait())
	worn, err := a.Worn(d)
	require.NoError(t, err)
	require.Equal(t, "48", worn.Want(desk.FacetPointerSize))
}
