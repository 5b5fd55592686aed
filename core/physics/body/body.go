// Package body has the readings that belong to no physics: volume and mass of
// parts, and formulas.
package body

import "saltkettle/core/sentence"

// Keys of the readings.
const (
	KeyVolume = "body.volume"
	KeyMass   = "body.mass"

	// KeyMode is what a mode is known by, of the number in the slot Number, and KeyDies how fast it dies away.
	KeyMode = "body.mode"
	KeyDies = "body.damping"
	Number  = "number"

	// KeyPhase is by how much the reading in the slot Other is ahead of what swings, and KeyPeak the frequency at which it is
	// greatest.
	KeyPhase = "body.phase"
	KeyPeak  = "body.peak"
	Other    = "reading"

	// KeyLess is by how much less the reading in the slot Other is than in the run of the model in the slot Than.
	KeyLess = "body.less"
	Than    = "run"

	// KeyTurns lets physics that act on each other be solved in turn.
	KeyTurns = "body.turns"

	// KeyFormula is a formula of reductions and of earlier readings.
	KeyFormula = "formula"
)

// Kinds are the readings of parts.
func Kinds() []sentence.Kind {
	return []sentence.Kind{
		{Key: KeyVolume, Group: sentence.Reading, Title: "volume", Template: "volume of the {on}", Acts: sentence.Bodies, Unit: "mm³"},
		{Key: KeyFormula, Group: sentence.Reading, Title: "a formula", Template: "{formula}",
			Slots: []sentence.Slot{{Name: "formula", Label: "formula", Kind: sentence.Formula}}},
		{Key: KeyTurns, Group: sentence.Condition, Title: "what acts on each other is solved in turn", Template: "Physics that act on each other are solved in turn, until they agree."},
		{Key: KeyMode, Group: sentence.Reading, Title: "frequency, or rate of decay, of a mode", Template: "frequency of mode {number}", Unit: "Hz",
			Slots: []sentence.Slot{{Name: Number, Label: "number of the mode", Positive: true, Whole: true, Default: "1"}}},
		{Key: KeyDies, Group: sentence.Reading, Title: "damping of a mode", Template: "damping of mode {number}, as a part of critical", Unit: "%",
			Slots: []sentence.Slot{{Name: Number, Label: "number of the mode", Positive: true, Whole: true, Default: "1"}}},
		{Key: KeyPhase, Group: sentence.Reading, Title: "phase of a reading that swings", Template: "phase of {reading}", Unit: "deg",
			Slots: []sentence.Slot{{Name: Other, Label: "reading that swings", Kind: sentence.Text, Default: "r1"}}},
		{Key: KeyPeak, Group: sentence.Reading, Title: "frequency of the greatest swing", Template: "frequency at which {reading} swings most", Unit: "Hz",
			Slots: []sentence.Slot{{Name: Other, Label: "reading that swings", Kind: sentence.Text, Default: "r1"}}},
		{Key: KeyLess, Group: sentence.Reading, Title: "insertion loss: level of a reading below that in another run", Template: "{reading}, in dB below what it is in run {run}",
			Slots: []sentence.Slot{{Name: Other, Label: "reading, of a power or of what swings", Kind: sentence.Text, Default: "r1"},
				{Name: Than, Label: "number of the run that it is compared with", Positive: true, Whole: true, Default: "1"}}},
		{Key: KeyMass, Group: sentence.Reading, Title: "mass", Template: "mass of the {on}", Acts: sentence.Bodies, Unit: "g"},
	}
}
