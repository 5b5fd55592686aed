package solve

import (
	"context"
	"encoding/binary"
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// inPieces runs a model in a folder and stops it again and again on its way.
func inPieces(t *testing.T, doc *model.Document, dir string, steps int) (*Outcome, int) {
	t.Helper()
	for piece := 1; ; piece++ {
		ctx, stop := context.WithCancel(t.Context())
		made := 0
		o, err := Run(ctx, doc, Options{Dir: dir, Resume: true, Checkpoints: time.Hour, Progress: func(e Event) {
			if e.End > 0 {
				made++
			}
			if made > steps {
				stop()
			}
		}})
		stop()
		require.NoError(t, err)
		if o.Status != result.Stopped {
			return o, piece
		}
		assert.Contains(t, o.Reason, "after ")
		at, err := result.LoadCheckpoint(dir, nil)
		require.NoError(t, err)
		assert.Positive(t, at.Reached)
		require.Less(t, piece, 100)
	}
}

// surfaceOf is all values that the surface in a folder shows, with its positions.
func surfaceOf(t *testing.T, dir string) []float64 {
	t.Helper()
	f, err := result.OpenSurface(dir)
	require.NoError(t, err)
	places, err := f.Vertices()
	require.NoError(t, err)
	var out []float64
	for _, x := range places {
		out = append(out, float64(x))
	}
	for set := range f.Sets() {
		for _, field := range f.Fields {
			data, err := f.Values(field.Name, set)
			require.NoError(t, err)
			for i := 0; i < len(data); i += 4 {
				if v := math.Float32frombits(binary.LittleEndian.Uint32(data[i:])); v == v { // where a field is not there is no number
					out = append(out, float64(v))
				}
			}
		}
	}
	return out
}

// slack is how far results in pieces may be from those in one go: both solve equations up to
// their tolerance.
const slack = 1e-9

// TestRunGoesOnAfterAnInterruption: stopped every few steps and begun anew, a run ends with what
// it has in one go: readings, account, what its readings were over time, and every moment that
// is drawn.
func TestRunGoesOnAfterAnInterruption(t *testing.T) {
	until := cooling(t)
	until.Run.Until = "r1 < 350 K and time > 1 s"
	// Held values that jump, heat that is stored by what varies, and readings over time.
	held := bath(t, "60 s", [2]string{"heat.source", "1 kW*square(time, 7 s, 0.1)"})
	held.Materials[0].Properties[material.HeatCapacity] = material.Property{Value: "1000 J/(kg·K)*(1 + 0.1*sin(temperature/10 K))"}
	add(t, held, "heat.held", model.Patch{Part: "bath", Side: "top"}, "temperature", "if(time > 20 s and time < 40 s, 60 °C, 20 °C)")
	add(t, held, "heat.through", model.Patch{Part: "bath", Side: "top"})
	_, err := held.AddSentence(physics.Catalog(), "formula", model.Patch{})
	require.NoError(t, err)
	set(t, held, "readings/r3/values/formula", "greatest(r1 over time) + mean(r2 over time)*1 K/W")
	// Current and heat, large enough for iterations.
	sampler := demo(t, "dew-sampler")
	set(t, sampler, "run/kind", "transient", "run/end", "10 s", "run/tolerance", "5 %", "mesh/size", "4 mm", "mesh/across", "1", "run/start", "20 °C")
	cases := map[string]*model.Document{"until": until, "held": held, "sampler": sampler}
	for name, doc := range cases {
		t.Run(name, func(t *testing.T) {
			once := t.TempDir()
			whole, err := Run(t.Context(), doc, Options{Dir: once})
			require.NoError(t, err)
			require.Equal(t, result.Settled, whole.Status)
			dir := filepath.Join(t.TempDir(), "run")
			require.NoError(t, os.Mkdir(dir, 0o755))
			o, pieces := inPieces(t, doc, dir, map[bool]int{true: 2, false: 5}[name == "sampler"])
			t.Log(pieces, "pieces")
			assert.Greater(t, pieces, 2)
			worst := 0.0
			near := func(want, got []float64, what string) {
				t.Helper()
				require.Len(t, got, len(want), what)
				size := 0.0
				for _, v := range want {
					size = max(size, math.Abs(v))
				}
				for i := range want {
					worst = max(worst, math.Abs(want[i]-got[i])/size)
					require.InDelta(t, want[i], got[i], slack*size, what)
				}
			}
			near(whole.History.Times, o.History.Times, "times")
			for i, q := range whole.Readings {
				near([]float64{q.Value}, []float64{o.Readings[i].Value}, q.Key)
				near(whole.History.Readings[q.Key], o.History.Readings[q.Key], q.Key)
			}
			for i, b := range whole.Balances {
				near([]float64{b.In, b.Out}, []float64{o.Balances[i].In, o.Balances[i].Out}, b.Name)
				assert.Less(t, o.Balances[i].Closure, 5e-4, b.Name)
			}
			near(surfaceOf(t, once), surfaceOf(t, dir), "what is drawn")
			t.Log("differences up to", worst)
			assert.NoFileExists(t, filepath.Join(dir, "checkpoint.bin"))
			assert.NoFileExists(t, filepath.Join(dir, "moments.bin"))
			assert.Equal(t, whole.Ended, o.Ended)
			assert.Equal(t, whole.Warnings, o.Warnings)
		})
	}
}

// TestCheckpointThatDoesNotFit: one that is damaged, or of another model, is refused in words,
// and nothing of it is used.
func TestCheckpointThatDoesNotFit(t *testing.T) {
	doc, dir := cooling(t), t.TempDir()
	ctx, stop := context.WithCancel(t.Context())
	o, err := Run(ctx, doc, Options{Dir: dir, Checkpoints: 1, Progress: func(e Event) {
		if e.Time > 100 {
			stop()
		}
	}})
	require.NoError(t, err)
	require.Equal(t, result.Stopped, o.Status)
	require.NotNil(t, o.Fields, "what there is of it is its result")
	last := o.History.Times[len(o.History.Times)-1]
	assert.Greater(t, last, 100.)
	assert.Less(t, last, 2000.)

	again := func(doc *model.Document) error {
		_, err := Run(t.Context(), doc, Options{Dir: dir, Resume: true, Checkpoints: time.Hour})
		return err
	}
	other := cooling(t)
	set(t, other, "conditions/c1/values/coefficient", "11 W/(m²·K)")
	require.ErrorContains(t, again(other), "of another model")

	path := filepath.Join(dir, "checkpoint.bin")
	good, err := os.ReadFile(path)
	require.NoError(t, err)
	bad := append([]byte(nil), good...)
	bad[len(bad)/2] ^= 1
	require.NoError(t, os.WriteFile(path, bad, 0o600))
	require.ErrorContains(t, again(doc), "damaged")
	require.NoError(t, os.WriteFile(path, good[:len(good)/2], 0o600))
	require.ErrorContains(t, again(doc), "damaged")
	require.NoError(t, os.WriteFile(path, good, 0o600))
	require.NoError(t, os.Truncate(filepath.Join(dir, "moments.bin"), 10))
	require.ErrorContains(t, again(doc), "10 bytes")
}
