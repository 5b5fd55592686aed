package formula

import "unicode"

// Mentions says whether a word of a text is one that is known: what it does not mention, it does
// not use. It is much quicker than parsing.
func Mentions(text string, known func(word string) bool) bool {
	start := -1
	for i, c := range text {
		part := c == '_' || unicode.IsLetter(c) || start >= 0 && unicode.IsDigit(c)
		switch {
		case part && start < 0:
			start = i
		case !part && start >= 0:
			if known(text[start:i]) {
				return true
			}
			start = -1
		}
	}
	return start >= 0 && known(text[start:])
}
