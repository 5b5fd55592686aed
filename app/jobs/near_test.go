package jobs

import (
	"bytes"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// TestNearestTrial is the one whose parameters are nearest, each as far as any other from its first value to its last, of those whose
// fields are complete.
func TestNearestTrial(t *testing.T) {
	set := &model.ResolvedTrials{TrialSet: &model.TrialSet{}, Axes: []model.Axis{{To: 4, Values: []float64{0, 1, 2, 3, 4}}, {To: 2, Values: []float64{0, 1, 2}}}} // place = 3·i + j
	root := t.TempDir()
	assert.Equal(t, -1, nearest(root, 7, set, 0), "nothing was kept")
	begun := time.Now().Add(-time.Hour)
	for i, place := range []int{1, 3, 14, 9, 12, 6} {
		dir := nearDir(root, 7, place)
		require.NoError(t, os.MkdirAll(dir, 0o700))
		require.NoError(t, result.SaveSummary(dir, &result.Result{}))
		require.NoError(t, os.Chtimes(dir, begun, begun.Add(time.Duration(i)*time.Minute)))
	}
	require.NoError(t, os.MkdirAll(nearDir(root, 7, 0), 0o700)) // was broken off
	assert.Equal(t, 3, nearest(root, 7, set, 0), "one of five steps is shorter than one of three")
	assert.Equal(t, 12, nearest(root, 7, set, 13), "the last one of two that are as near")
	assert.Equal(t, -1, nearest(root, 8, set, 13))
	spread := &model.ResolvedTrials{TrialSet: &model.TrialSet{Pattern: model.Latin}, Axes: []model.Axis{{From: 1, To: 9, Values: []float64{5, 1, 9, 2, 8, 7, 3, 6, 4, 5, 1, 9, 2, 8, 7}}}}
	assert.Equal(t, 14, nearest(root, 7, spread, 4), "of what is spread the values count, and not the places")

	require.NoError(t, os.MkdirAll(nearDir(root, 8, 1), 0o700))
	forget(root, 7)
	assert.NoDirExists(t, nearDir(root, 8, 1), "another series")
	assert.Equal(t, []int{6, 12, 9, 14}, keptPlaces(root, 7), "the last ones, the newest first")
	forget(root, 0)
	assert.NoDirExists(t, nearDir(root, 7, 6))
}

// stream is the model of a flow with two trials of its speed.
func stream(t *testing.T) *model.Document {
	data, err := os.ReadFile(filepath.Join("..", "..", "examples", "yard-shade.kettle.json"))
	require.NoError(t, err)
	yard, err := model.Parse(data)
	require.NoError(t, err)
	d := model.New("gutter")
	d.Space, d.Physics = model.Space{Kind: model.Plane, Unit: "mm", Depth: "1 m"}, nil
	d.Materials = yard.Materials
	for i := range d.Materials {
		if d.Materials[i].Name == "air" {
			d.Materials[i].Properties[material.Viscosity] = material.Property{Value: "0.01 Pa·s"}
		}
	}
	d.Parts = []model.Part{{ID: "gut", Name: "gutter", Material: "air", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "60 mm", Depth: "20 mm"}, Place: model.Place{X: "30 mm", Y: "10 mm"}}}
	d.Mesh = model.Mesh{Size: "4 mm", Across: "1"}
	d.Parameters = []model.Parameter{{Name: "speed", Value: "1 m/s", Unit: "m/s"}}
	d.Conditions = []model.Sentence{
		{ID: "c1", Kind: "flow.flows", On: model.Patch{Part: "gut"}},
		{ID: "c2", Kind: "flow.channel", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"speed": "speed"}},
		{ID: "c3", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "right"}}}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "flow.mean-pressure", On: model.Patch{Part: "gut", Side: "left"}, Unit: "Pa"}}
	d.Trials = []model.TrialSet{{ID: "t1", Name: "speeds", Vary: []model.Vary{{Parameter: "speed", From: "1 m/s", To: "1.1 m/s", Count: "2"}}}}
	d.Enumerate()
	return d
}

// TestFlowsAreKeptForOthers: a run that finds the fields of another one takes fewer steps, and one that finds none or rubbish begins from
// rest.
func TestFlowsAreKeptForOthers(t *testing.T) {
	work := func(task *Task) int {
		in, err := json.Marshal(task)
		require.NoError(t, err)
		var out bytes.Buffer
		r, w := io.Pipe() // stays open while it works
		defer w.Close()
		go func() { _, _ = w.Write(in) }()
		require.NoError(t, Work(t.Context(), r, &out))
		lines := bytes.Split(bytes.TrimSpace(out.Bytes()), []byte("\n"))
		var last Message
		require.NoError(t, json.Unmarshal(lines[len(lines)-1], &last))
		require.NotNil(t, last.Result, last.Error)
		require.Equal(t, result.Settled, last.Result.Status)
		return len(last.Result.Solver.Steps)
	}
	d, dir := stream(t), filepath.Join(t.TempDir(), "7", "0")
	work(&Task{Document: d, Trial: true, Keep: dir})
	require.NoError(t, d.SetParameter("speed", "1.1 m/s"))
	rest := work(&Task{Document: d, Trial: true})
	assert.Less(t, work(&Task{Document: d, Trial: true, Near: dir}), rest)
	assert.Equal(t, rest, work(&Task{Document: d, Trial: true, Near: dir + "1"}))
	require.NoError(t, os.Truncate(filepath.Join(dir, "velocity_x.f64"), 8))
	assert.Equal(t, rest, work(&Task{Document: d, Trial: true, Near: dir}))
}

// TestTrialsOfAFlow leave nothing of what they began with when all are done.
func TestTrialsOfAFlow(t *testing.T) {
	d := stream(t)
	s, m := begin(t, "work")
	entry, err := s.CreateModel(t.Context(), d)
	require.NoError(t, err)
	series, err := m.QueueTrials(t.Context(), entry.ID, "t1", 2, nil)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		now, err := s.Series(t.Context(), series.ID)
		return err == nil && now.Status == store.SeriesDone
	}, 2*time.Minute, 10*time.Millisecond)
	made, err := s.Trials(t.Context(), series.ID)
	require.NoError(t, err)
	require.Len(t, made, 2)
	for _, x := range made {
		assert.Equal(t, string(result.Settled), x.Status, x.Message)
	}
	assert.NoDirExists(t, nearDir(s.NearDir(), series.ID, 0))
}
