//go:build !amd64

package dense

func native() []kernel { return nil }
