package dense

//go:generate go run ./internal/kernels -out kernels_amd64.s -stubs kernels_amd64.go -pkg dense
