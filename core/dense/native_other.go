//go:build !amd64

package dense

func native() []kernel { return nil }

// smallProduct and smallRow are never called.
func smallProduct(int, *float32, *float32, *float32) {}

func smallRow(int, int, *float32, *int32, *float64, *float64) {}
