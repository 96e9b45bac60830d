// Package oracle holds the consequences of drafts against what the public site really answers: every address that is
// or was known, for every viewer, now and at each moment to come. It is made of tests only.
package oracle
