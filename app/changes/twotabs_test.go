package changes_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/core/desk"
	"ivelt/core/planning"
)

// TestAReviewedPlanIsOfItsOwnOutfit: a plan is reviewed, the draft is changed
// elsewhere, and the plan is applied. What it was made from is what is worn, and
// what leaves the draft.
func TestAReviewedPlanIsOfItsOwnOutfit(t *testing.T) {
	for _, try := range []time.Duration{0, time.Hour} {
		a, d := apptest.New(t)
		choose := func(facet, want string) {
			_, err := a.Drafts.Choose(d, facet, want)
			require.NoError(t, err)
		}
		choose(desk.FacetPointerSize, "32")
		choose(desk.FacetFont, "Sans 9")
		reviewed, err := a.Review.Draft(t.Context(), d, nil, planning.Options{})
		require.NoError(t, err)
		choose(desk.FacetPointerSize, "48") // in another tab
		choose(desk.FacetDark, "dark")
		j, err := a.Changes.Apply(d, reviewed.Plan.ID, changes.How{Try: try})
		require.NoError(t, err)
		require.NoError(t, j.Wait())
		if try > 0 {
			now, ok := a.Trials.Of(d)
			require.True(t, ok)
			require.Error(t, a.Trials.Keep(d, now.Checkpoint+1), "another trial than the one that is seen")
			_, err := a.Trials.End(d, now.Checkpoint+1, "")
			require.Error(t, err)
			require.NoError(t, a.Trials.Keep(d, now.Checkpoint))
		}
		worn, err := a.Drafts.Worn(d)
		require.NoError(t, err)
		require.Equal(t, "32", worn.Want(desk.FacetPointerSize), "as the files say")
		require.Empty(t, worn.Want(desk.FacetDark))
		draft, err := a.Drafts.Draft(d)
		require.NoError(t, err)
		require.Equal(t, []string{desk.FacetDark, desk.FacetPointerSize}, draft.Facets(), "what was chosen meanwhile stays")
		require.Equal(t, "48", draft.Want(desk.FacetPointerSize))

		reviewed, err = a.Review.Draft(t.Context(), d, nil, planning.Options{})
		require.NoError(t, err)
		j, err = a.Changes.Apply(d, reviewed.Plan.ID, changes.How{})
		require.NoError(t, err)
		require.NoError(t, j.Wait())
		draft, err = a.Drafts.Draft(d)
		require.NoError(t, err)
		require.Empty(t, draft.Choices)
		back, err := a.Back.Review(d, changes.Way{Checkpoint: 1}, nil)
		require.NoError(t, err)
		_, err = a.Changes.Apply(d, back.Return.Plan.ID, changes.How{})
		require.ErrorContains(t, err, "not the plan of a look")
	}
}
