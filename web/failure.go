package web

import (
	"context"
	"errors"
	"net/http"

	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/core/apply"
	"ivelt/core/plan"
	"ivelt/store"
)

// handler answers a request, or returns why it cannot.
type handler func(w http.ResponseWriter, r *http.Request) error

// do answers with a handler; an error is shown with the status that is its kind's.
func (s *Server) do(h handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if err := h(w, r); err != nil {
			s.fail(w, r, statusOf(err), err)
		}
	}
}

// failure is an error of which the handler knows what kind it is to the one who asks.
type failure struct {
	error
	status int
}

func (f failure) Unwrap() error { return f.error }

func missing(err error) error     { return failure{err, http.StatusNotFound} }
func refused(err error) error     { return failure{err, http.StatusBadRequest} }
func conflict(err error) error    { return failure{err, http.StatusConflict} }
func unreachable(err error) error { return failure{err, http.StatusBadGateway} }

// errNotHere: there is nothing of what an address names.
var errNotHere = errors.New("there is no such thing here")

// gone is the status of a request whose asker has left. (Common practice, no source.)
const gone = 499

// statuses are those of the kinds of errors, the first that fits: trouble with the database
// is never taken for something that is not there.
var statuses = []struct {
	kind   error
	status int
}{
	{context.Canceled, gone},
	{store.ErrDamaged, http.StatusInternalServerError},
	{store.ErrFull, http.StatusInsufficientStorage},
	{store.ErrReadOnly, http.StatusInternalServerError},
	{store.ErrLocked, http.StatusServiceUnavailable},
	{desks.ErrNone, http.StatusNotFound},
	{apply.ErrBusy, http.StatusConflict},
	{changes.ErrTrying, http.StatusConflict},
}

// others are the kinds of errors that count where the handler does not say.
var others = []struct {
	kind   error
	status int
}{
	{store.ErrNone, http.StatusNotFound},
	{plan.ErrChanged, http.StatusConflict},
	{apply.ErrUnfinished, http.StatusConflict},
	{plan.ErrReadOnly, http.StatusForbidden},
}

// statusOf is the status that an error answers a request with.
func statusOf(err error) int {
	for _, k := range statuses {
		if errors.Is(err, k.kind) {
			return k.status
		}
	}
	var of failure
	if errors.As(err, &of) {
		return of.status
	}
	for _, k := range others {
		if errors.Is(err, k.kind) {
			return k.status
		}
	}
	return http.StatusInternalServerError
}
