// Package address decides where pages are served: segments, the normal form of a path, and which page an address
// leads to (rules 3). It knows the Site and nothing of HTTP.
package address

import (
	"errors"
	"strings"
)

// ErrEscape is a "%" that no two hexadecimal digits follow.
var ErrEscape = errors.New("the address has a % that does not begin an escape")

// Normal gives the normal form of an escaped path (rules 3.1): unreserved characters decoded, other escapes in upper
// case (RFC 3986 §6.2.2), dot segments removed (§5.2.4); then, our own, slashes collapsed, the last one dropped and
// ASCII letters lower-cased. The result starts with a slash. Normal(Normal(p)) = Normal(p).
func Normal(path string) (string, error) {
	if isNormal(path) {
		return path, nil
	}
	decoded, err := decodeUnreserved(path)
	if err != nil {
		return "", err
	}
	var out strings.Builder
	for segment := range strings.SplitSeq(RemoveDots("/"+decoded), "/") {
		if segment != "" {
			out.WriteByte('/')
			out.WriteString(segment)
		}
	}
	if out.Len() == 0 {
		return "/", nil
	}
	return out.String(), nil
}

// isNormal recognises the common case without allocating: only lower-case segments of letters, digits and hyphens.
func isNormal(path string) bool {
	if path == "/" {
		return true
	}
	if path == "" || path[0] != '/' || path[len(path)-1] == '/' {
		return false
	}
	for i := 1; i < len(path); i++ {
		switch c := path[i]; {
		case 'a' <= c && c <= 'z', '0' <= c && c <= '9', c == '-':
		case c == '/' && path[i-1] != '/':
		default:
			return false
		}
	}
	return true
}

// RemoveDots is the remove_dot_segments algorithm of RFC 3986 §5.2.4.
func RemoveDots(input string) string {
	var out []string // each with its leading slash, if it has one
	pop := func() {
		if len(out) > 0 {
			out = out[:len(out)-1]
		}
	}
	for input != "" {
		switch {
		case strings.HasPrefix(input, "../"):
			input = input[3:]
		case strings.HasPrefix(input, "./"):
			input = input[2:]
		case strings.HasPrefix(input, "/./"):
			input = input[2:]
		case input == "/.":
			input = "/"
		case strings.HasPrefix(input, "/../"):
			input = input[3:]
			pop()
		case input == "/..":
			input = "/"
			pop()
		case input == "." || input == "..":
			input = ""
		default:
			end := strings.IndexByte(input[1:], '/') + 1
			if end == 0 {
				end = len(input)
			}
			out = append(out, input[:end])
			input = input[end:]
		}
	}
	return strings.Join(out, "")
}

// decodeUnreserved decodes escapes of unreserved characters, upper-cases the hexadecimal digits of all others and
// lower-cases ASCII letters outside escapes.
func decodeUnreserved(path string) (string, error) {
	var out strings.Builder
	for i := 0; i < len(path); i++ {
		if path[i] != '%' {
			out.WriteByte(lower(path[i]))
			continue
		}
		if i+2 >= len(path) {
			return "", ErrEscape
		}
		high, low := hex(path[i+1]), hex(path[i+2])
		if high < 0 || low < 0 {
			return "", ErrEscape
		}
		if c := byte(high<<4 | low); unreserved(c) {
			out.WriteByte(lower(c))
		} else {
			out.WriteString(strings.ToUpper(path[i : i+3]))
		}
		i += 2
	}
	return out.String(), nil
}

// unreserved is RFC 3986 §2.3.
func unreserved(c byte) bool {
	return 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9' || strings.IndexByte("-._~", c) >= 0
}

func lower(c byte) byte {
	if 'A' <= c && c <= 'Z' {
		return c + 'a' - 'A'
	}
	return c
}

func hex(c byte) int { return strings.IndexByte("0123456789abcdef", lower(c)) }
