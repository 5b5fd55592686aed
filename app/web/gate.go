package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
)

// heavyAtOnce is how many requests compute at once, such as for a mesh or a drawing that is read,
// and heavyWaiting how many may wait for that.
const (
	heavyAtOnce  = 2
	heavyWaiting = 16
)

// errBusy says that too much is being computed.
var errBusy = errors.New("too much is being computed just now; try again in a moment")

// gate lets a few requests compute at once. Those that wait give up when their reader does.
type gate struct {
	at      chan struct{}
	waiting chan struct{}
}

func newGate() *gate {
	return &gate{make(chan struct{}, heavyAtOnce), make(chan struct{}, heavyWaiting)}
}

// enter waits for a place; leave gives it back.
func (g *gate) enter(ctx context.Context) (leave func(), err error) {
	select {
	case g.waiting <- struct{}{}:
	default:
		return nil, errBusy
	}
	defer func() { <-g.waiting }()
	select {
	case g.at <- struct{}{}:
		return func() { <-g.at }, nil
	case <-ctx.Done():
		return nil, fmt.Errorf("nobody waits any more: %w", context.Cause(ctx))
	}
}

// heavy is for handlers that compute.
func (d *desk) heavy(next http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		leave, err := d.gate.enter(r.Context())
		if err != nil {
			d.fail(w, r, err)
			return
		}
		defer leave()
		next(w, r)
	}
}
