package main

import (
	"context"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/check"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

func TestCheckFindsTheFaultsOfTheDemo(t *testing.T) {
	url := storetest.URL(t)
	t.Setenv("VINELADDER_DATABASE_URL", url)
	st := storetest.Open(t, url)
	require.NoError(t, demo.Load(context.Background(), st))
	said, err := command(t, "", "check", "--site-url", "http://127.0.0.1:8080")
	require.ErrorAs(t, err, &foundError{})
	for _, fault := range []string{
		"menu-nowhere", "page-nowhere", "heading-alone", "address-stale", "web-address-own", "hint-repeats",
		"audience-wider", "badge-contrast",
	} {
		assert.Contains(t, said, " "+fault+" ", "a fault that the demo has on purpose")
	}
	_, err = command(t, "", "check", "--fail", "never")
	require.NoError(t, err)
	_, err = command(t, "", "check", "--format", "xml")
	assert.ErrorContains(t, err, "not known")

	out, _ := command(t, "", "check", "--format", "json")
	var lines []checkLine
	require.NoError(t, json.Unmarshal([]byte(out), &lines))
	require.NotEmpty(t, lines)
	out, _ = command(t, "", "check", "--format", "sarif")
	assert.Equal(t, len(lines), strings.Count(out, "\n"))
	var first sarifResult
	require.NoError(t, json.Unmarshal([]byte(out[:strings.Index(out, "\n")]), &first))
	assert.Equal(t, lines[0].Check, first.RuleID)
	assert.Equal(t, "error", first.Level)

	// what is meant so is found no more
	keeper, err := st.AccountByLogin(context.Background(), "keeper")
	require.NoError(t, err)
	for _, p := range check.Find(check.NewLook(st.Published().Site, time.Now(), "")).All() {
		meant := store.Meant{Key: p.Key(), Excuse: check.Excuse{Reason: "known", Until: time.Now().AddDate(1, 0, 0)}}
		require.NoError(t, st.Mean(context.Background(), meant, keeper))
	}
	_, err = command(t, "", "check")
	assert.NoError(t, err)
}
