package web

import (
	"archive/zip"
	"fmt"
	"io"
	"net/http"

	"saltkettle/app/store"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/table"
)

// resultOf is the run that a request is about, which must have a result.
func (d *desk) resultOf(r *http.Request) (store.Run, error) {
	run, err := d.store.Run(r.Context(), runID(r))
	if err == nil && !run.HasResult {
		err = fmt.Errorf("a result of run %d: %w", run.ID, store.ErrNotFound)
	}
	return run, err
}

func (s *platesPage) exportVTU(w http.ResponseWriter, r *http.Request) {
	s.exportFields(w, r, "vtu", "application/xml", (*result.Fields).WriteVTU)
}

func (s *platesPage) exportCSV(w http.ResponseWriter, r *http.Request) {
	s.exportFields(w, r, "csv", "text/csv; charset=utf-8", (*result.Fields).WriteCSV)
}

// exportMoments answers with the fields at all moments, packed together.
func (s *platesPage) exportMoments(w http.ResponseWriter, r *http.Request) {
	run, err := s.resultOf(r)
	dir := ""
	if err == nil {
		dir = s.store.RunDir(run.ID)
		err = result.Verify(dir) // what is wrong can be said before anything is sent
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, fmt.Sprintf("run-%d-moments.zip", run.Number), "application/zip")
	z := zip.NewWriter(w)
	if err := result.ExportMoments(dir, z.Create); err == nil {
		_ = z.Close() // the other side may have gone
	}
}

func (s *platesPage) exportFields(w http.ResponseWriter, r *http.Request, suffix, kind string, write func(*result.Fields, io.Writer) error) {
	run, err := s.resultOf(r)
	var f *result.Fields
	if err == nil {
		f, err = result.LoadFields(s.store.RunDir(run.ID))
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, fmt.Sprintf("run-%d.%s", run.Number, suffix), kind)
	_ = write(f, w) // the other side may have gone
}

// exportReadings answers with the readings over the runs as CSV, in the units in
// which they are shown.
func (s *platesPage) exportReadings(w http.ResponseWriter, r *http.Request) {
	m, err := s.store.Model(r.Context(), modelID(r))
	var h history
	if err == nil {
		h, err = s.history(r.Context(), m)
	}
	if err == nil {
		err = s.compare(r.Context(), &h)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	var v platesView
	compareRuns(&v, h, h.withReadings(), 0)
	attach(w, "readings.csv", "text/csv; charset=utf-8")
	out := table.NewWriter(w)
	head := []string{"run", "revision", "status", "what changed"}
	for _, c := range v.Columns {
		head = append(head, fmt.Sprintf("%s (%s)", c.Name, c.Unit), fmt.Sprintf("error of %s (%s)", c.Name, differenceUnit(c.Unit)))
	}
	_ = out.Write(head)
	for _, row := range v.Rows {
		line := []string{fmt.Sprint(row.Number), fmt.Sprint(row.Revision), row.Status, row.What}
		for _, c := range v.Columns {
			text, mesh := "", ""
			if q, ok := h.reading(row.ID, c.Key); ok {
				text = fmt.Sprintf("%.10g", quantity.MustUnit(c.Unit).From(q.Value, q.Difference))
				if q.Error != nil {
					mesh = fmt.Sprintf("%.2g", quantity.MustUnit(c.Unit).From(*q.Error, true))
				}
			}
			line = append(line, text, mesh)
		}
		_ = out.Write(line)
	}
	_ = out.Flush() // the other side may have gone
}

// exportHistory answers with the readings of a run over time as CSV, in the units in which
// they are shown.
func (s *platesPage) exportHistory(w http.ResponseWriter, r *http.Request) {
	run, err := s.resultOf(r)
	var res *result.Result
	if err == nil {
		res, err = result.Load(s.store.RunDir(run.ID))
	}
	if err == nil && res.History == nil {
		err = fmt.Errorf("run #%d is not one in time: %w", run.Number, store.ErrNotFound)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, fmt.Sprintf("run-%d-over-time.csv", run.Number), "text/csv; charset=utf-8")
	_ = res.WriteHistory(w) // the other side may have gone
}
