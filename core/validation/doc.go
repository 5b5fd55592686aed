// Package validation compares whole runs, from the model document to the
// reading, with exact solutions, on a sequence of meshes, and makes the table of
// docs/validation.md.
package validation
