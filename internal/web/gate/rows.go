package gate

import (
	"database/sql"
	"errors"
	"time"

	"github.com/alexedwards/scs/postgresstore"
)

// rows keeps sessions in the database. The session package writes a session back at the end of each request that had it; so a slow
// request could bring back one that was ended meanwhile. A session that is ended leaves its row, empty, until it would have run out,
// and an empty row is never written again.
type rows struct {
	*postgresstore.PostgresStore // its cleaning
	db                           *sql.DB
}

// Find gives the data of a session; exists is false for one that was ended or has run out.
func (r *rows) Find(token string) (data []byte, exists bool, err error) {
	err = r.db.QueryRow(`SELECT data FROM sessions WHERE token = $1 AND data <> '' AND current_timestamp < expiry`, token).Scan(&data)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// Commit writes a session, unless it was ended.
func (r *rows) Commit(token string, data []byte, expiry time.Time) error {
	_, err := r.db.Exec(`INSERT INTO sessions (token, data, expiry) VALUES ($1, $2, $3)
		ON CONFLICT (token) DO UPDATE SET data = excluded.data, expiry = excluded.expiry WHERE sessions.data <> ''`, token, data, expiry)
	return err
}

// Delete ends a session.
func (r *rows) Delete(token string) error {
	_, err := r.db.Exec(`UPDATE sessions SET data = '' WHERE token = $1`, token)
	return err
}
