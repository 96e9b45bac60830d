package store_test

import (
	"encoding/base32"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/store"
)

// RFC 6238, appendix B: the test values for SHA-1, of which devices show the last six digits.
func TestCodesAreThoseOfTheStandard(t *testing.T) {
	secret := base32.StdEncoding.EncodeToString([]byte("12345678901234567890"))
	for at, code := range map[int64]string{
		59: "94287082", 1111111109: "07081804", 1111111111: "14050471", 1234567890: "89005924", 2000000000: "69279037",
		20000000000: "65353130",
	} {
		assert.Equal(t, at/30, store.StepOf(secret, code[2:], time.Unix(at, 0)), "at %d", at)
		assert.Equal(t, at/30, store.StepOf(secret, code[2:], time.Unix(at+30, 0)), "a step late (5.2)")
		assert.Zero(t, store.StepOf(secret, code[2:], time.Unix(at+90, 0)), "three steps late")
		assert.Zero(t, store.StepOf(secret, code, time.Unix(at, 0)), "eight digits are another code")
	}
}

// A code is good once, and so is each recovery code; a wrong one sets nothing up and takes nothing off.
func TestASecondFactor(t *testing.T) {
	st, keeper := peopled(t)
	key, err := st.NewSecond(keeper)
	require.NoError(t, err)
	_, err = st.SetSecond(ctx, keeper, key.Secret(), "000000x")
	require.ErrorIs(t, err, store.ErrCode)
	a, err := st.Account(ctx, keeper.ID)
	require.NoError(t, err)
	require.False(t, a.Second)

	code, err := totp.GenerateCode(key.Secret(), clock.Now())
	require.NoError(t, err)
	recovery, err := st.SetSecond(ctx, keeper, key.Secret(), " "+code)
	require.NoError(t, err)
	require.Len(t, recovery, 10)
	a, err = st.Account(ctx, keeper.ID)
	require.NoError(t, err)
	require.True(t, a.Second)
	require.ErrorIs(t, st.CheckCode(ctx, keeper.ID, code), store.ErrCode, "it was used to set it up (RFC 6238, 5.2)")
	next, err := totp.GenerateCode(key.Secret(), clock.Now().Add(30*time.Second))
	require.NoError(t, err)
	require.NoError(t, st.CheckCode(ctx, keeper.ID, next))
	require.ErrorIs(t, st.CheckCode(ctx, keeper.ID, next), store.ErrCode)

	require.NoError(t, st.CheckCode(ctx, keeper.ID, recovery[3]))
	require.ErrorIs(t, st.CheckCode(ctx, keeper.ID, recovery[3]), store.ErrCode)
	require.ErrorIs(t, st.CheckCode(ctx, keeper.ID, ""), store.ErrCode)
	require.ErrorIs(t, st.DropSecond(ctx, keeper, "nonsense"), store.ErrCode)
	require.NoError(t, st.DropSecond(ctx, keeper, recovery[4]))
	a, err = st.Account(ctx, keeper.ID)
	require.NoError(t, err)
	assert.False(t, a.Second)
	require.ErrorIs(t, st.CheckCode(ctx, keeper.ID, recovery[5]), store.ErrCode, "gone with the device")
}
