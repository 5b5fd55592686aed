// Package quantity holds physical dimensions and units, reads values as people
// write them ("850 W/(m²·K)", "72 °C", "60 psi") and prints them with sensible
// digits.
//
// Values are kept in SI base units. A temperature that was written on a scale
// with an offset (°C, °F) is a point on that scale and not a difference: it is
// marked so, and [Value.Affine] travels with it, because 6 °C and 6 K are the
// same difference but not the same temperature.
//
// Angle is a base dimension of its own, so that an angle cannot be passed for a
// plain number unnoticed; [Dimension.WithoutAngle] drops it where the
// mathematics does.
package quantity
