// Package say holds what sentences need whatever they are about.
package say

import (
	"unicode"
	"unicode/utf8"
)

// Capital begins words as a sentence begins.
func Capital(words string) string {
	first, size := utf8.DecodeRuneInString(words)
	if size == 0 || first == utf8.RuneError {
		return words
	}
	return string(unicode.ToUpper(first)) + words[size:]
}

// Inside begins words as they stand inside a sentence.
func Inside(words string) string {
	first, size := utf8.DecodeRuneInString(words)
	if size == 0 || first == utf8.RuneError {
		return words
	}
	return string(unicode.ToLower(first)) + words[size:]
}
