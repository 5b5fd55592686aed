// Package body has the readings that need no physics: volume and mass of parts.
package body

import "saltkettle/core/sentence"

// Keys of the readings.
const (
	KeyVolume = "body.volume"
	KeyMass   = "body.mass"
)

// Kinds are the readings of parts.
func Kinds() []sentence.Kind {
	return []sentence.Kind{
		{Key: KeyVolume, Group: sentence.Reading, Title: "volume", Template: "volume of the {on}", Acts: sentence.Bodies, Unit: "mm³"},
		{Key: KeyMass, Group: sentence.Reading, Title: "mass", Template: "mass of the {on}", Acts: sentence.Bodies, Unit: "g"},
	}
}
