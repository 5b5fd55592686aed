// Package table writes tables as CSV (RFC 4180) that are safe to open as a sheet: a text that a
// sheet would take for a formula and work out, as it begins with =, +, -, @, a tab or a line
// end, gets an apostrophe before it. Numbers stay as they are.
package table

import (
	"encoding/csv"
	"io"
	"strconv"
	"strings"
)

// begins are the characters with which a sheet takes a text for a formula.
const begins = "=+-@\t\r\n"

// Plain is a text that no sheet takes for a formula. An apostrophe that stands there already is
// doubled where it would be lost by [Raw].
func Plain(text string) string {
	if text == "" {
		return text
	}
	if _, err := strconv.ParseFloat(text, 64); err == nil {
		return text
	}
	if rest := strings.TrimLeft(text, "'"); rest != "" && strings.Contains(begins, rest[:1]) {
		return "'" + text
	}
	return text
}

// Raw is the text of which [Plain] made another.
func Raw(text string) string {
	if rest := strings.TrimLeft(text, "'"); len(rest) < len(text) && rest != "" && strings.Contains(begins, rest[:1]) {
		return text[1:]
	}
	return text
}

// Writer writes rows of texts, each by [Plain].
type Writer struct{ csv *csv.Writer }

// NewWriter returns a writer of rows.
func NewWriter(w io.Writer) *Writer { return &Writer{csv.NewWriter(w)} }

// Write writes a row. An error is kept and returned by [Writer.Flush] too.
func (w *Writer) Write(row []string) error {
	plain := make([]string, len(row))
	for i, text := range row {
		plain[i] = Plain(text)
	}
	return w.csv.Write(plain)
}

// Flush writes what is left and returns the first error there was.
func (w *Writer) Flush() error {
	w.csv.Flush()
	return w.csv.Error()
}
