package edit_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func TestAReasonIsAskedForWhereTheSettingsDo(t *testing.T) {
	why, err := edit.Reason(site.Settings{}, " ")
	require.NoError(t, err)
	assert.Empty(t, why)
	_, err = edit.Reason(site.Settings{AskWhy: true}, " ")
	assert.ErrorContains(t, err, "Say why")
	why, err = edit.Reason(site.Settings{AskWhy: true}, " The Board decided ")
	require.NoError(t, err)
	assert.Equal(t, "The Board decided", why)
	_, err = edit.Reason(site.Settings{}, strings.Repeat("ø", 501))
	assert.ErrorContains(t, err, "longer than 500")
}
