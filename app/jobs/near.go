package jobs

import (
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"

	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/core/solve"
)

// Steady flows of a series begin where a trial of it ended whose parameters are near: its fields stay until the series is done or
// another one is at hand. All of that helps and nothing depends on it: what cannot be kept or read is done without.

// keptTrials is how many trials of a series keep their fields.
const keptTrials = 4

// nearDir is the folder of the fields of a trial.
func nearDir(root string, series uint, place int) string {
	return filepath.Join(root, strconv.Itoa(int(series)), strconv.Itoa(place))
}

// nearest is the trial of a series with kept fields whose parameters are nearest to those of a place, −1 for none.
func nearest(root string, series uint, set *model.ResolvedTrials, place int) int {
	best, least := -1, math.Inf(1)
	for _, p := range keptPlaces(root, series) {
		if d := apart(set, p, place); d < least {
			best, least = p, d
		}
	}
	return best
}

// apart is how far two trials are apart, each axis as long as any other from its least to its greatest value.
func apart(set *model.ResolvedTrials, a, b int) (sum float64) {
	at, to := set.Values(a), set.Values(b)
	for i := range set.Axes {
		sum += math.Abs(set.Axes[i].Scaled(at[i]) - set.Axes[i].Scaled(to[i]))
	}
	return sum
}

// keptPlaces are the trials of a series with complete fields, those that were kept last first.
func keptPlaces(root string, series uint) (places []int) {
	entries, _ := os.ReadDir(filepath.Join(root, strconv.Itoa(int(series))))
	age := map[int]int64{}
	for _, e := range entries {
		p, err := strconv.Atoi(e.Name())
		info, infoErr := e.Info()
		if err != nil || infoErr != nil {
			continue
		}
		if _, err := result.Load(nearDir(root, series, p)); err != nil {
			continue // what was broken off
		}
		age[p] = info.ModTime().UnixNano()
		places = append(places, p)
	}
	slices.SortFunc(places, func(a, b int) int { return int(age[b] - age[a]) })
	return places
}

// forget removes the fields of all series but one, and of that all but the last.
func forget(root string, series uint) {
	entries, _ := os.ReadDir(root)
	for _, e := range entries {
		if e.Name() != strconv.Itoa(int(series)) {
			_ = os.RemoveAll(filepath.Join(root, e.Name()))
		}
	}
	kept := keptPlaces(root, series)
	for _, p := range kept[min(keptTrials, len(kept)):] {
		_ = os.RemoveAll(nearDir(root, series, p))
	}
}

// keep writes the fields of a trial that has settled.
func keep(dir string, o *solve.Outcome) {
	if dir == "" || o.Fields == nil || o.Status != result.Settled {
		return
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return
	}
	if result.SaveFields(dir, o.Fields, o.Surface, &result.Series{}) != nil || result.SaveSummary(dir, o.Result) != nil {
		_ = os.RemoveAll(dir)
	}
}
