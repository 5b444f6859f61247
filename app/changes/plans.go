package changes

import (
	"encoding/json"
	"errors"
	"time"

	"ivelt/app/desks"
	"ivelt/core/plan"
	"ivelt/core/say"
	"ivelt/store"
)

// Plans are those that were reviewed, until one is carried out, and those that were.
type Plans struct{ store planStore }

type planStore interface {
	Plan(id string) (store.PlanRow, error)
	SavePlan(p store.PlanRow) error
}

// NewPlans returns the plans in a store.
func NewPlans(s planStore) *Plans { return &Plans{s} }

// Keep keeps a plan until it is carried out, or for a while.
func (ps *Plans) Keep(p plan.Plan) error {
	b, err := json.Marshal(p)
	if err != nil {
		return err
	}
	return ps.store.SavePlan(store.PlanRow{ID: p.ID, Desk: p.Desk, JSON: b, Made: time.Now()})
}

// Get returns a plan that was reviewed or carried out on a desk.
func (ps *Plans) Get(d *desks.Managed, id string) (plan.Plan, error) {
	row, err := ps.store.Plan(id)
	if err != nil || row.Desk != d.ID {
		return plan.Plan{}, say.Errorf("the plan is not known any more; review again (%w)", errors.Join(err, store.ErrNone))
	}
	var p plan.Plan
	return p, json.Unmarshal(row.JSON, &p)
}
