package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	_ "embed"
	"fmt"
	"sort"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Argon2id with the second recommended option of RFC 9106 §4: 3 passes over 64 MiB in 4 lanes; from memory.
var hashing = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

func hashPassword(ctx context.Context, password string) (string, error) {
	made, err := inTurn(ctx, func() (string, error) { return argon2id.CreateHash(norm.NFKC.String(password), hashing) })
	if err != nil {
		return "", fmt.Errorf("hash the password: %w", err)
	}
	return made, nil
}

// Bounds of a password, in characters.
const (
	PasswordMinimum = 12
	PasswordMaximum = 200
)

// common are the first eight bytes of the hashes of passwords that many have, sorted; tools/common-passwords.py names
// their source.
//
//go:embed common-passwords.bin
var common []byte

const commonSize = 8

// A BadPassword says why a password will not do.
type BadPassword struct{ Sentence string }

func (b *BadPassword) Error() string { return b.Sentence }

// CheckPassword says what is wrong with a password for an account; nil if nothing is (NIST SP 800-63B 5.1.1.2, from
// memory: length, and not one that is known, nor the name).
func CheckPassword(login, password string) error {
	password = norm.NFKC.String(password)
	folded := cases.Fold().String(password)
	switch n := utf8.RuneCountInString(password); {
	case !utf8.ValidString(password):
		return &BadPassword{"A password is made of characters."}
	case n < PasswordMinimum:
		return &BadPassword{
			fmt.Sprintf(
				"A password needs at least %d characters; a few words in a row make a good one.",
				PasswordMinimum,
			),
		}
	case n > PasswordMaximum:
		return &BadPassword{fmt.Sprintf("A password can have %d characters at most.", PasswordMaximum)}
	case folded == cases.Fold().String(norm.NFKC.String(login)):
		return &BadPassword{"The password is the sign-in name; choose another."}
	case isCommon(folded):
		return &BadPassword{"Many people use this password, so it is tried first; choose another."}
	}
	return nil
}

func isCommon(folded string) bool {
	sum := sha256.Sum256([]byte(folded))
	wanted := sum[:commonSize]
	at := func(i int) []byte { return common[i*commonSize : (i+1)*commonSize] }
	n := len(common) / commonSize
	i := sort.Search(n, func(i int) bool { return bytes.Compare(at(i), wanted) >= 0 })
	return i < n && bytes.Equal(at(i), wanted)
}
