package web

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"

	"saltkettle/core/fmu"
	"saltkettle/core/table"
)

// exportTrials answers with the table as CSV, in the units in which it is shown.
func (s *trialsPage) exportTrials(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	var o *outcomes
	if err == nil {
		o, err = s.outcomes(r.Context(), series)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, fmt.Sprintf("trials-%d.csv", series.Number), "text/csv; charset=utf-8")
	out := table.NewWriter(w)
	head := []string{"trial"}
	columns := append(o.parameters(), o.readings()...)
	for _, c := range columns {
		head = append(head, fmt.Sprintf("%s (%s)", c.name, c.unit))
	}
	_ = out.Write(append(head, "state", "counts", "marked"))
	marked := series.Marked()
	for place := range o.List {
		t, made := o.made[place]
		if !made {
			continue
		}
		line := []string{fmt.Sprint(place + 1)}
		for _, c := range columns {
			x, ok := c.of(place)
			if !ok || math.IsNaN(x) {
				line = append(line, "")
				continue
			}
			line = append(line, fmt.Sprintf("%.10g", x))
		}
		row := trialRow{}
		row.state(&t)
		_ = out.Write(append(line, row.State, fmt.Sprint(t.Counts()), fmt.Sprint(slices.Contains(marked, place))))
	}
	_ = out.Flush() // the other side may have gone
}

// function is the surfaces of a series as a function of its parameters.
func (in *insight) function() (*fmu.Function, error) {
	f, err := fmu.Of(in.p, in.doc.Name, fmt.Sprintf("predicted from trials of %q, revision %d", in.set.Name, in.series.Revision), func(id string) (name, unit string, difference, ok bool) {
		q, ok := in.kinds[id]
		return q.Name, q.Shown.Unit, q.Difference, ok
	})
	if err != nil {
		return nil, &userError{err}
	}
	return f, nil
}

// handOver answers with a file that is made of the function of a series.
func (s *trialsPage) handOver(w http.ResponseWriter, r *http.Request, kind, content string, write func(f *fmu.Function, b *bytes.Buffer) error) {
	in, err := s.insightOf(r.Context(), r)
	var f *fmu.Function
	if err == nil {
		f, err = in.function()
	}
	var b bytes.Buffer
	if err == nil {
		err = write(f, &b)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, fmu.Identifier(in.doc.Name)+"."+kind, content)
	_, _ = w.Write(b.Bytes()) // the other side may have gone
}

func (s *trialsPage) exportSurface(w http.ResponseWriter, r *http.Request) {
	s.handOver(w, r, "csv", "text/csv; charset=utf-8", func(f *fmu.Function, b *bytes.Buffer) error { return f.WriteTable(b) })
}

func (s *trialsPage) exportGo(w http.ResponseWriter, r *http.Request) {
	s.handOver(w, r, "go", "text/plain; charset=utf-8", func(f *fmu.Function, b *bytes.Buffer) error {
		_, err := b.WriteString(f.Go())
		return err
	})
}

func (s *trialsPage) exportC(w http.ResponseWriter, r *http.Request) {
	s.handOver(w, r, "c", "text/plain; charset=utf-8", func(f *fmu.Function, b *bytes.Buffer) error {
		_, err := b.WriteString(strings.Replace(f.C(), "#include \"surface.h\"\n", "void surface(const double x[], double y[]);\n", 1))
		return err
	})
}

func (s *trialsPage) exportFMU(w http.ResponseWriter, r *http.Request) {
	s.handOver(w, r, "fmu", "application/zip", func(f *fmu.Function, b *bytes.Buffer) error {
		err := f.Write(r.Context(), b, time.Now())
		if errors.Is(err, fmu.ErrNoCompiler) {
			s.log.Warn("a unit was written without its library", "error", err)
			return nil
		}
		return err
	})
}
