package rdf

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// turtle reads a document of Turtle from its beginning on.
type turtle struct {
	in       string
	at, line int
	base     *url.URL
	prefixes map[string]string
	blanks   int
	depth    int
	triples  []Triple
}

// nestingLimit bounds blank nodes and lists inside each other.
const nestingLimit = 200

func readTurtle(document []byte) (triples []Triple, err error) {
	t := &turtle{in: string(document), line: 1, prefixes: map[string]string{}}
	if !utf8.Valid(document) {
		return nil, &Fault{1, "the document is not UTF-8"}
	}
	defer func() {
		if fault, is := recover().(*Fault); is {
			triples, err = nil, fault
		}
	}()
	for t.space(); t.at < len(t.in); t.space() {
		t.statement()
	}
	return t.triples, nil
}

// wrong ends the reading; readTurtle gives the fault to its caller.
func (t *turtle) wrong(format string, args ...any) {
	panic(&Fault{t.line, fmt.Sprintf(format, args...)})
}

func (t *turtle) emit(s, p, o Term, line int) {
	if len(t.triples) >= Limit {
		t.wrong("the document has more than %d statements", Limit)
	}
	t.triples = append(t.triples, Triple{s, p, o, line})
}

// space passes blanks and comments.
func (t *turtle) space() {
	for t.at < len(t.in) {
		switch c := t.in[t.at]; c {
		case '\n':
			t.line++
			t.at++
		case ' ', '\t', '\r':
			t.at++
		case '#':
			for t.at < len(t.in) && t.in[t.at] != '\n' {
				t.at++
			}
		default:
			return
		}
	}
}

func (t *turtle) peek() byte {
	if t.at < len(t.in) {
		return t.in[t.at]
	}
	return 0
}

// take passes a sign that must stand here.
func (t *turtle) take(sign byte) {
	t.space()
	if t.peek() != sign {
		t.wrong("there should be “%c” before “%s”", sign, t.rest())
	}
	t.at++
}

// rest is what stands here, in short.
func (t *turtle) rest() string {
	rest := t.in[t.at:]
	if cut := strings.IndexAny(rest, "\n"); cut >= 0 {
		rest = rest[:cut]
	}
	if runes := []rune(rest); len(runes) > 20 {
		rest = string(runes[:20])
	}
	if rest == "" {
		return "the end"
	}
	return rest
}

// word passes a word, whatever its case, if it stands here by itself.
func (t *turtle) word(word string) bool {
	end := t.at + len(word)
	if end > len(t.in) || !strings.EqualFold(t.in[t.at:end], word) {
		return false
	}
	if r, _ := utf8.DecodeRuneInString(t.in[end:]); end < len(t.in) && (isName(r) || r == ':') {
		return false
	}
	t.at = end
	return true
}

func (t *turtle) statement() {
	switch {
	case strings.HasPrefix(t.in[t.at:], "@prefix"), strings.HasPrefix(t.in[t.at:], "@base"):
		t.at++
		if t.word("prefix") {
			t.prefix()
		} else if t.word("base") {
			t.rebase()
		}
		t.take('.')
	case t.word("PREFIX"):
		t.prefix()
	case t.word("BASE"):
		t.rebase()
	default:
		t.sentence()
		t.take('.')
	}
}

func (t *turtle) prefix() {
	t.space()
	name := t.prefixName()
	t.take(':')
	t.space()
	t.prefixes[name] = t.iri()
}

func (t *turtle) rebase() {
	t.space()
	base, err := url.Parse(t.iri())
	if err != nil {
		t.wrong("the base is no IRI")
	}
	t.base = base
}

func (t *turtle) prefixName() string {
	from := t.at
	for t.at < len(t.in) {
		r, size := utf8.DecodeRuneInString(t.in[t.at:])
		if !isName(r) && r != '.' {
			break
		}
		t.at += size
	}
	return t.in[from:t.at]
}

func isName(r rune) bool {
	return r == '_' || r == '-' || unicode.IsLetter(r) || unicode.IsDigit(r) || r == '\u00b7' ||
		unicode.Is(unicode.Mn, r)
}

// sentence reads a subject with what is said of it.
func (t *turtle) sentence() {
	subject := t.subject()
	t.space()
	if t.peek() == '.' && subject.Kind == Blank {
		return // a blank node that says all of itself
	}
	t.said(subject)
}

func (t *turtle) subject() Term {
	switch t.peek() {
	case '[':
		return t.blankNode()
	case '(':
		return t.list()
	}
	return t.name()
}

// said reads predicates with their objects.
func (t *turtle) said(subject Term) {
	for {
		t.space()
		line := t.line
		predicate := Term{Value: Syntax + "type"}
		if !t.isA() {
			if predicate = t.name(); predicate.Kind != IRI {
				t.wrong("a predicate must be an IRI")
			}
		}
		for {
			t.space()
			t.emit(subject, predicate, t.object(), line)
			t.space()
			if t.peek() != ',' {
				break
			}
			t.at++
		}
		ended := false
		for t.peek() == ';' {
			t.at++
			t.space()
			ended = true
		}
		if c := t.peek(); !ended || c == '.' || c == ']' || c == 0 {
			return
		}
	}
}

// isA passes the word “a”.
func (t *turtle) isA() bool {
	if t.peek() != 'a' || t.at+1 >= len(t.in) || !strings.ContainsRune(" \t\r\n<[(\"_", rune(t.in[t.at+1])) {
		return false
	}
	t.at++
	return true
}

func (t *turtle) object() Term {
	c := t.peek()
	switch {
	case c == '[':
		return t.blankNode()
	case c == '(':
		return t.list()
	case c == '"' || c == '\'':
		return t.literal()
	case c == '+' || c == '-' || c == '.' || c >= '0' && c <= '9':
		return t.number()
	case t.word("true"):
		return Term{Kind: Literal, Value: "true", Type: xsd + "boolean"}
	case t.word("false"):
		return Term{Kind: Literal, Value: "false", Type: xsd + "boolean"}
	}
	return t.name()
}

func (t *turtle) newBlank() Term {
	t.blanks++
	return Term{Kind: Blank, Value: "b" + strconv.Itoa(t.blanks)}
}

func (t *turtle) deeper() {
	if t.depth++; t.depth > nestingLimit {
		t.wrong("blank nodes stand more than %d deep in each other", nestingLimit)
	}
}

func (t *turtle) blankNode() Term {
	t.deeper()
	defer func() { t.depth-- }()
	t.take('[')
	node := t.newBlank()
	if t.space(); t.peek() != ']' {
		t.said(node)
	}
	t.take(']')
	return node
}

func (t *turtle) list() Term {
	t.deeper()
	defer func() { t.depth-- }()
	t.take('(')
	var items []Term
	for t.space(); t.peek() != ')'; t.space() {
		if t.at >= len(t.in) {
			t.wrong("a list is not closed")
		}
		items = append(items, t.object())
	}
	t.at++
	return chain(items, t.newBlank, func(s, p, o Term) { t.emit(s, p, o, t.line) })
}

// chain writes a list down as the statements that it stands for.
func chain(items []Term, blank func() Term, emit func(s, p, o Term)) Term {
	rest := Term{Value: Syntax + "nil"}
	for i := len(items) - 1; i >= 0; i-- {
		node := blank()
		emit(node, Term{Value: Syntax + "first"}, items[i])
		emit(node, Term{Value: Syntax + "rest"}, rest)
		rest = node
	}
	return rest
}

// name reads an IRI, a name with a prefix, or a blank node.
func (t *turtle) name() Term {
	switch {
	case t.peek() == '<':
		return Term{Value: t.iri()}
	case strings.HasPrefix(t.in[t.at:], "_:"):
		t.at += 2
		label := t.local()
		if label == "" {
			t.wrong("a blank node has no name")
		}
		return Term{Kind: Blank, Value: "_" + label}
	}
	prefix := t.prefixName()
	if t.peek() != ':' {
		t.wrong("“%s%s” is neither an IRI nor a name", prefix, t.rest())
	}
	t.at++
	space, known := t.prefixes[prefix]
	if !known {
		t.wrong("the prefix “%s:” is not declared", prefix)
	}
	return Term{Value: space + t.local()}
}

// local reads what follows a prefix; a dot at its end ends the sentence.
func (t *turtle) local() string {
	var out strings.Builder
	for t.at < len(t.in) {
		r, size := utf8.DecodeRuneInString(t.in[t.at:])
		switch {
		case r == '\\' && t.at+1 < len(t.in) && strings.IndexByte("_~.-!$&'()*+,;=/?#@%", t.in[t.at+1]) >= 0:
			out.WriteByte(t.in[t.at+1])
			t.at += 2
			continue
		case r == '%' && t.at+2 < len(t.in) && isHex(t.in[t.at+1]) && isHex(t.in[t.at+2]):
			out.WriteString(t.in[t.at : t.at+3])
			t.at += 3
			continue
		case r == '.':
			next, _ := utf8.DecodeRuneInString(t.in[t.at+1:])
			if t.at+1 >= len(t.in) || !isName(next) && next != ':' && next != '.' && next != '%' && next != '\\' {
				return out.String()
			}
		case !isName(r) && r != ':':
			return out.String()
		}
		out.WriteRune(r)
		t.at += size
	}
	return out.String()
}

func isHex(c byte) bool {
	return c >= '0' && c <= '9' || c >= 'a' && c <= 'f' || c >= 'A' && c <= 'F'
}

func (t *turtle) iri() string {
	t.take('<')
	end := strings.IndexAny(t.in[t.at:], ">\n")
	if end < 0 || t.in[t.at+end] == '\n' {
		t.wrong("an IRI is not closed")
	}
	iri := t.unescaped(t.in[t.at:t.at+end], false)
	t.at += end + 1
	made, err := resolve(t.base, iri)
	if err != nil {
		t.wrong("%v", err)
	}
	return made
}

func (t *turtle) literal() Term {
	quote := t.in[t.at : t.at+1]
	line := t.line
	long := strings.HasPrefix(t.in[t.at:], strings.Repeat(quote, 3))
	mark := quote
	if long {
		mark = strings.Repeat(quote, 3)
	}
	t.at += len(mark)
	from := t.at
	for {
		switch rest := t.in[t.at:]; {
		case rest == "":
			panic(&Fault{line, "a quote that opens in this line is not closed"})
		case strings.HasPrefix(rest, mark):
			for long && strings.HasPrefix(t.in[t.at+1:], mark) {
				t.at++ // quotes at the end of long words belong to them
			}
			words := t.unescaped(t.in[from:t.at], true)
			t.at += len(mark)
			return t.typed(words)
		case rest[0] == '\\' && len(rest) > 1:
			t.at += 2
		case rest[0] == '\n' && !long:
			panic(&Fault{line, "a quote that opens in this line is not closed"})
		default:
			if rest[0] == '\n' {
				t.line++
			}
			t.at++
		}
	}
}

// typed reads the language or datatype of a literal.
func (t *turtle) typed(words string) Term {
	made := Term{Kind: Literal, Value: words}
	switch rest := t.in[t.at:]; {
	case strings.HasPrefix(rest, "@"):
		t.at++
		from := t.at
		for t.at < len(t.in) && (isHex(t.in[t.at]) || t.in[t.at] == '-' || unicode.IsLetter(rune(t.in[t.at]))) {
			t.at++
		}
		made.Lang = strings.ToLower(t.in[from:t.at])
	case strings.HasPrefix(rest, "^^"):
		t.at += 2
		made.Type = t.name().Value
	}
	return made
}

func (t *turtle) number() Term {
	from, kind := t.at, "integer"
	for t.at < len(t.in) && strings.IndexByte("+-.0123456789eE", t.in[t.at]) >= 0 {
		if t.in[t.at] == '.' && (t.at+1 >= len(t.in) || strings.IndexByte("0123456789eE", t.in[t.at+1]) < 0) {
			break // it ends the sentence
		}
		switch t.in[t.at] {
		case '.':
			kind = "decimal"
		case 'e', 'E':
			kind = "double"
		}
		t.at++
	}
	words := t.in[from:t.at]
	if _, err := strconv.ParseFloat(words, 64); err != nil && !strings.Contains(err.Error(), "range") {
		t.wrong("“%s” is no number", words)
	}
	return Term{Kind: Literal, Value: words, Type: xsd + kind}
}

// unescaped gives words with their escapes resolved; an IRI has those of code points only.
func (t *turtle) unescaped(words string, all bool) string {
	if !strings.Contains(words, "\\") {
		return words
	}
	signs := map[byte]string{
		't': "\t", 'b': "\b", 'n': "\n", 'r': "\r", 'f': "\f", '"': `"`, '\'': "'", '\\': `\`,
	}
	var out strings.Builder
	for at := 0; at < len(words); at++ {
		if words[at] != '\\' {
			out.WriteByte(words[at])
			continue
		}
		at++
		if at >= len(words) {
			t.wrong("an escape is not finished")
		}
		size := map[byte]int{'u': 4, 'U': 8}[words[at]]
		sign, known := signs[words[at]]
		switch {
		case size > 0 && at+size < len(words):
			code, err := strconv.ParseUint(words[at+1:at+1+size], 16, 32)
			if err != nil || !utf8.ValidRune(rune(code)) {
				t.wrong("“\\%s” is no escape", words[at:at+1+size])
			}
			out.WriteRune(rune(code))
			at += size
		case known && all:
			out.WriteString(sign)
		default:
			t.wrong("“\\%c” is no escape", words[at])
		}
	}
	return out.String()
}
