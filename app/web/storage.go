package web

import (
	"cmp"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/quantity"
)

// storagePage is what the data folder takes on the disk, and the bin.
type storagePage struct{ *desk }

// Routes adds the routes of storage.
func (s *storagePage) Routes(r chi.Router) {
	r.Get("/storage", s.storage)
	r.Post("/storage/settings", s.set)
	r.Post("/storage/tidy", s.tidy)
	r.Post("/models/{model}/purge", s.purge)
	r.Post("/models/{model}/keep", s.keepLast)
}

// storageView is the page.
type storageView struct {
	Title       string
	All, Free   string
	Database    string
	Views       string
	Models, Bin []useView
	BinDays     field
	Keep        field
	Said        string
}

// useView is a model with what it takes.
type useView struct {
	store.Use
	Size, Removed string
}

// storage shows what models take and what is in the bin.
func (s *storagePage) storage(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	disk, err := s.store.Disk(ctx)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	days, err := s.store.Setting(ctx, store.BinDays)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	keep, err := s.store.Setting(ctx, store.KeepResults)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	v := storageView{Title: "Disk and bin", All: bytesWords(disk.Bytes()), Database: bytesWords(disk.Database), Views: bytesWords(disk.Views), Said: r.URL.Query().Get("said")}
	if disk.Free >= 0 {
		v.Free = bytesWords(disk.Free)
	}
	slices.SortStableFunc(disk.Models, func(a, b store.Use) int { return cmp.Compare(b.Bytes(), a.Bytes()) })
	for _, u := range disk.Models {
		row := useView{Use: u, Size: bytesWords(u.Bytes())}
		if u.Model.RemovedAt == nil {
			v.Models = append(v.Models, row)
			continue
		}
		row.Removed = ago(*u.Model.RemovedAt)
		v.Bin = append(v.Bin, row)
	}
	v.BinDays = setting(store.BinDays, days, "when models in the bin are deleted", []int{7, 30, 90, 365, 0}, func(n int) string {
		if n == 0 {
			return "never"
		}
		return plural(n, "day") + " after they were removed"
	})
	v.Keep = setting(store.KeepResults, keep, "of how many runs the fields are kept", []int{0, 1, 3, 10, 30, 100}, func(n int) string {
		switch n {
		case 0:
			return "of all runs"
		case 1:
			return "of the last run"
		}
		return fmt.Sprintf("of the last %d runs", n)
	})
	s.render(w, r, http.StatusOK, "storage", v)
}

// setting is a choice of a setting.
func setting(name string, now int, label string, choices []int, words func(int) string) field {
	if !slices.Contains(choices, now) {
		choices = append(choices, now)
	}
	f := field{Place: name, Value: strconv.Itoa(now), Label: label}
	for _, n := range choices {
		f.Names, f.Texts = append(f.Names, strconv.Itoa(n)), append(f.Texts, words(n))
	}
	return f
}

// bytesWords writes an amount of memory.
func bytesWords(n int64) string {
	switch {
	case n < 1000:
		return fmt.Sprintf("%d B", n)
	case n < 1_000_000:
		return quantity.Figures(float64(n)/1e3, 3) + " kB"
	case n < 1_000_000_000:
		return quantity.Figures(float64(n)/1e6, 3) + " MB"
	}
	return quantity.Figures(float64(n)/1e9, 3) + " GB"
}

// set changes a setting; what follows from it is done when the store is tidied.
func (s *storagePage) set(w http.ResponseWriter, r *http.Request) {
	for _, name := range []string{store.BinDays, store.KeepResults} {
		text := r.FormValue(name)
		if text == "" {
			continue
		}
		n, err := strconv.Atoi(text)
		if err != nil {
			s.fail(w, r, &userError{fmt.Errorf("%q cannot be chosen", text)})
			return
		}
		if err := s.store.Set(r.Context(), name, n); err != nil {
			s.fail(w, r, err)
			return
		}
	}
	http.Redirect(w, r, "/storage", http.StatusSeeOther)
}

// tidy does what the settings say at once, and gives room back to the disk.
func (s *storagePage) tidy(w http.ResponseWriter, r *http.Request) {
	said, err := s.store.Tidy(r.Context())
	var freed int64
	if err == nil {
		freed, err = s.store.Vacuum(r.Context())
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	if freed > 0 {
		said += "Given back to the disk: " + bytesWords(freed) + "."
	}
	if said == "" {
		said = "There was nothing to do."
	}
	toStorage(w, r, said)
}

// purge deletes a model of the bin for good.
func (s *storagePage) purge(w http.ResponseWriter, r *http.Request) {
	m, err := s.store.Removed(r.Context(), modelID(r))
	if err == nil {
		err = s.store.Purge(r.Context(), m.ID)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	toStorage(w, r, m.Name+" was deleted.")
}

// keepLast deletes the fields of all but the last runs of a model.
func (s *storagePage) keepLast(w http.ResponseWriter, r *http.Request) {
	n, err := strconv.Atoi(r.FormValue("keep"))
	if err != nil || n < 0 {
		s.fail(w, r, &userError{fmt.Errorf("say of how many runs the fields are kept")})
		return
	}
	dropped, err := s.store.DropResults(r.Context(), modelID(r), n)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(modelID(r))
	toStorage(w, r, fmt.Sprintf("The fields of %s were deleted; their readings stay.", plural(dropped, "run")))
}

// toStorage goes back to the page, which says what was done.
func toStorage(w http.ResponseWriter, r *http.Request, said string) {
	http.Redirect(w, r, "/storage?said="+url.QueryEscape(said), http.StatusSeeOther)
}
