// Package formula reads and evaluates the expressions that stand wherever a
// model has a value: "5 mm", "2*pitch + 1 mm", "max(t, 3 mm)".
//
// A unit directly follows the number that it belongs to and reaches as far as
// unit symbols do: in "850 W/(m²·K)" the whole of it is the unit, in "2 mm * n"
// the star ends it. A name that does not follow a number is a parameter or a
// constant. Every operation checks the dimensions of its operands and the
// message names the operation and both dimensions.
//
// Temperatures on a scale with an offset (°C, °F) are points: two of them can
// be subtracted (giving a difference in K) or compared, and a difference can be
// added to one, but they cannot be added, multiplied or divided.
//
// The reader bounds the length of a formula and the depth of its nesting, so
// that text from anywhere can be given to it.
package formula
