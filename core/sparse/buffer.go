package sparse

// grow returns a slice of n elements with any values, the old one if it is long
// enough.
func grow[E any](s []E, n int) []E {
	if cap(s) < n {
		return make([]E, n)
	}
	return s[:n]
}
