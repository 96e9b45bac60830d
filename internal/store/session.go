package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"time"
)

// A Session is what a browser's cookie stands for.
type Session struct {
	Account int64 // 0: nobody is signed in
	Data    []byte
	Expiry  time.Time
}

// A session nobody has used for sessionIdle is over. When it was used is written down every touchEvery at most, so
// that a request reads and does not write.
const (
	sessionIdle = 4 * time.Hour
	touchEvery  = time.Minute - time.Second // each time its memory is over
)

// hashOf is what is kept of a token: who reads the table can't take a session over.
func hashOf(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// Session finds a session by its token; nil for one that was ended, ran out or never was.
func (st *Store) Session(ctx context.Context, site, token string) (*Session, error) {
	var row struct {
		Account sql.NullInt64 `db:"account"`
		Data    []byte        `db:"data"`
		Expiry  time.Time     `db:"expiry"`
		Old     bool          `db:"old"`
	}
	err := st.db.GetContext(
		ctx,
		&row,
		`SELECT account, data, expiry, seen < now() - make_interval(secs => $4) AS old FROM sessions
		WHERE hash = $1 AND site = $2 AND expiry > now() AND seen > now() - make_interval(secs => $3)`,
		hashOf(token),
		site,
		sessionIdle.Seconds(),
		touchEvery.Seconds(),
	)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err == nil && row.Old {
		_, err = st.db.ExecContext(ctx, `UPDATE sessions SET seen = now() WHERE hash = $1`, hashOf(token))
	}
	if err != nil {
		return nil, fmt.Errorf("read the session: %w", err)
	}
	return &Session{row.Account.Int64, row.Data, row.Expiry}, nil
}

// SessionMark names a session to what must end with it. It does not give the session away.
func SessionMark(token string) string { return hex.EncodeToString(hashOf(token)) }

// HasSession says whether the session with a mark goes on.
func (st *Store) HasSession(ctx context.Context, mark string) (bool, error) {
	hash, err := hex.DecodeString(mark)
	if err != nil {
		return false, nil
	}
	var there bool
	err = st.db.GetContext(
		ctx,
		&there,
		`SELECT EXISTS (SELECT FROM sessions WHERE hash = $1 AND expiry > now()
			AND seen > now() - make_interval(secs => $2))`,
		hash,
		sessionIdle.Seconds(),
	)
	if err != nil {
		return false, fmt.Errorf("look for the session: %w", err)
	}
	return there, nil
}

// BeginSession keeps a new session.
func (st *Store) BeginSession(ctx context.Context, site, token string, s Session) error {
	_, err := st.db.ExecContext(
		ctx,
		`INSERT INTO sessions (hash, site, account, data, expiry) VALUES ($1, $2, nullif($3, 0), $4, $5)`,
		hashOf(token),
		site,
		s.Account,
		s.Data,
		s.Expiry,
	)
	if err != nil {
		return fmt.Errorf("begin a session: %w", err)
	}
	return nil
}

// WriteSession changes a session that is there. One that was ended meanwhile stays ended.
func (st *Store) WriteSession(ctx context.Context, site, token string, s Session) error {
	_, err := st.db.ExecContext(
		ctx,
		`UPDATE sessions SET account = nullif($3, 0), data = $4, expiry = $5, seen = now() WHERE hash = $1 AND site = $2`,
		hashOf(token),
		site,
		s.Account,
		s.Data,
		s.Expiry,
	)
	if err != nil {
		return fmt.Errorf("write the session: %w", err)
	}
	return nil
}

// EndSession ends a session.
func (st *Store) EndSession(ctx context.Context, site, token string) error {
	if _, err := st.db.ExecContext(ctx, `DELETE FROM sessions WHERE hash = $1 AND site = $2`, hashOf(token),
		site); err != nil {
		return fmt.Errorf("end the session: %w", err)
	}
	st.members.forget("s" + SessionMark(token)) // at once here, by what the database tells elsewhere
	return nil
}

// ClearSessions deletes the sessions that are over.
func (st *Store) ClearSessions(ctx context.Context) error {
	_, err := st.db.ExecContext(
		ctx,
		`DELETE FROM sessions WHERE expiry <= now() OR seen <= now() - make_interval(secs => $1)`,
		sessionIdle.Seconds(),
	)
	if err != nil {
		return fmt.Errorf("clear old sessions: %w", err)
	}
	return nil
}
