package web

import (
	"fmt"
	"net/http"
	"slices"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// How two runs are compared.
const (
	inPair       = "pair"       // beside each other, with views that turn together
	underSlider  = "slider"     // over each other, with a slider between
	asDifference = "difference" // what one has more than the other
)

// besideView is the comparison of the run that is shown with another one.
type besideView struct {
	Runs  []option
	Hows  []option
	Other int // number of the other run, 0 for none
	How   string
}

// Two says that two drawings are shown.
func (b besideView) Two() bool { return b.Other > 0 && b.How != asDifference }

// Difference says that what is shown is the difference of two runs.
func (b besideView) Difference() bool { return b.Other > 0 && b.How == asDifference }

// beside fills in the run that a request names to be compared with the one that is shown.
func (s *platesPage) beside(r *http.Request, v *platesView, done []store.Run, doc *model.Document) error {
	q := r.URL.Query()
	v.Beside.How = q.Get("how")
	if !slices.Contains([]string{inPair, underSlider, asDifference}, v.Beside.How) {
		v.Beside.How = inPair
	}
	for i, words := range []string{"beside each other", "under a slider", "as the difference"} {
		name := []string{inPair, underSlider, asDifference}[i]
		v.Beside.Hows = append(v.Beside.Hows, option{name, words, name == v.Beside.How})
	}
	asked := int(number(q.Get("beside")))
	for _, x := range done {
		if x.HasResult && x.ID != v.Run.ID {
			v.Beside.Runs = append(v.Beside.Runs, option{fmt.Sprint(x.Number), fmt.Sprintf("run #%d", x.Number), x.Number == asked})
		}
	}
	if asked == 0 {
		return nil
	}
	i := slices.IndexFunc(done, func(x store.Run) bool { return x.Number == asked && x.HasResult })
	if i < 0 {
		return fmt.Errorf("a result of run #%d of this model: %w", asked, store.ErrNotFound)
	}
	v.Beside.Other = asked
	other := done[i]
	res, err := result.Load(s.store.RunDir(other.ID))
	if err != nil {
		return err
	}
	c := v.Config
	_, own := model.OwnFormula(c.Field)
	if _, there := res.FieldNamed(c.Field); !own && !there {
		v.Warnings = append(v.Warnings, fmt.Sprintf("run #%d has no %s", asked, c.Field))
		v.Beside.Other = 0
		return nil
	}
	if v.Beside.How == asDifference {
		u := quantity.MustUnit(differenceUnit(c.Unit))
		c.Minus = &minusConfig{other.ID, u.Text, u.Factor}
		return nil
	}
	k := &briefMaker{doc: doc, id: v.Model.ID, faults: map[string]string{}}
	k.resolved, _ = model.Resolve(doc, physics.Catalog())
	plate := v.Plate.Plate
	f := k.fit(&plate, res)
	c.Beside = s.configOf(k, &plate, &f, other, res)
	return nil
}
