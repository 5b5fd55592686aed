package web

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/plate"
	"saltkettle/core/result"
)

// recent keeps what was made last: whoever drags a slice asks often, and a line is drawn over several
// runs.
type recent[T any] struct {
	most int
	lock sync.Mutex
	list []*made[T] // the last one first
}

// made is a thing that is made once, by whoever wants it first.
type made[T any] struct {
	of    string
	thing func() (T, error)
}

// get returns what is called so, which is made if it is not kept. What could not be made is not kept.
func (c *recent[T]) get(of string, do func() (T, error)) (T, error) {
	c.lock.Lock()
	var m *made[T]
	for i, x := range c.list {
		if x.of == of {
			m = x
			copy(c.list[1:], c.list[:i])
			c.list[0] = m
		}
	}
	if m == nil {
		m = &made[T]{of, sync.OnceValues(do)}
		c.list = append([]*made[T]{m}, c.list[:min(len(c.list), c.most-1)]...)
	}
	c.lock.Unlock()
	thing, err := m.thing()
	if err != nil {
		c.forget(of)
	}
	return thing, err
}

// forget keeps no longer what could not be made, or is not what it was.
func (c *recent[T]) forget(of string) {
	c.lock.Lock()
	defer c.lock.Unlock()
	c.list = slices.DeleteFunc(c.list, func(x *made[T]) bool { return x.of == of })
}

// How many results are kept as they were read, and how many fields of each.
const (
	insideKept   = 3
	valuesKept   = 10
	surfacesKept = 8
	picturesKept = 60
)

// interior is the cells of a result with the fields that were asked for last.
type interior struct {
	*result.Reader
	*plate.Inside
	// model is what was run: its parameters stand in formulas.
	model  *model.Resolved
	values recent[[]float64]
}

// field returns a field, or a formula of fields, at a moment by its place in the list.
func (i *interior) field(name string, moment int) ([]float64, error) {
	return i.values.get(fmt.Sprintf("%s %d", name, moment), func() ([]float64, error) {
		text, own := model.OwnFormula(name)
		if !own {
			return i.Values(name, moment)
		}
		if _, err := i.model.PlateProgram(text, physics.Catalog()); err != nil {
			return nil, &userError{fmt.Errorf("%q cannot be shown: %w", text, err)}
		}
		return i.model.PlateValues(text, physics.Catalog(), i.Cells.Nodes, func(quantity string) ([]float64, error) { return i.Values(quantity, moment) })
	})
}

// fields returns the components of a vector or a tensor, or a field of one.
func (i *interior) fields(name string, moment int) (list [][]float64, err error) {
	names := plate.Components(i.Result.Fields, name)
	if len(names) == 0 {
		names = []string{name}
	}
	for _, n := range names {
		values, err := i.field(n, moment)
		if err != nil {
			return nil, err
		}
		list = append(list, values)
	}
	return list, nil
}

// interior reads the cells of a run, if that was not done of late.
func (s *platesPage) interior(run store.Run) (*interior, error) {
	return s.insides.get(fmt.Sprintf("%d %s", run.ID, run.Token), func() (*interior, error) {
		r, err := result.NewReader(s.store.RunDir(run.ID))
		if err != nil {
			return nil, err
		}
		doc, err := s.store.RunDocument(context.Background(), run)
		if err != nil {
			return nil, err
		}
		resolved, _ := model.Resolve(doc, physics.Catalog())
		return &interior{Reader: r, Inside: plate.NewInside(r.Cells), model: resolved, values: recent[[]float64]{most: valuesKept}}, nil
	})
}

// asked is what a request asks of the fields of a run.
type asked struct {
	run    store.Run
	in     *interior
	moment int
	values []float64   // of the field
	bent   [][]float64 // displacement that the drawing is bent by, nil if it is not
}

// ask reads what a request names of its run: a field, a moment by its place in the list, and what the
// drawing is bent by. It answers itself what cannot be, ok being false then.
func (s *platesPage) ask(w http.ResponseWriter, r *http.Request) (a asked, ok bool) {
	q := r.URL.Query()
	if a.moment, ok = momentIn(r); !ok {
		http.Error(w, "Moments are numbered from 0.", http.StatusBadRequest)
		return a, false
	}
	var err error
	if a.run, err = s.resultOf(r); err != nil {
		s.fail(w, r, err)
		return a, false
	}
	if a.in, err = s.interior(a.run); err == nil {
		if a.values, err = a.in.field(q.Get("field"), a.moment); err == nil && q.Get("bent") != "" {
			a.bent, err = a.in.fields(q.Get("bent"), a.moment)
		}
	}
	if err != nil {
		s.fail(w, r, err)
	}
	return a, err == nil
}

// momentIn reads the place of a moment in the list, [result.AtEnd] if a request names none.
func momentIn(r *http.Request) (int, bool) {
	text := r.URL.Query().Get("moment")
	if text == "" {
		return result.AtEnd, true
	}
	n, err := strconv.Atoi(text)
	return n, err == nil && n >= 0
}

// placeIn reads a number of a query.
func placeIn(r *http.Request, name string) (float64, bool) {
	list, ok := numbersIn(r, name, 1)
	if !ok {
		return 0, false
	}
	return list[0], true
}

// numbersIn reads some numbers of a query, which commas part.
func numbersIn(r *http.Request, name string, count int) ([]float64, bool) {
	texts := strings.Split(r.URL.Query().Get(name), ",")
	if len(texts) != count {
		return nil, false
	}
	list := make([]float64, count)
	for i, text := range texts {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, false
		}
		list[i] = v
	}
	return list, true
}
