package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// IsDown says whether an error is that of a database which does not answer: it can't be reached, closes connections,
// starts or stops, or a query took longer than it may.
func IsDown(err error) bool {
	var connecting *pgconn.ConnectError
	var network net.Error
	var said *pgconn.PgError
	switch {
	case errors.As(err, &connecting), errors.As(err, &network):
		return true
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, driver.ErrBadConn):
		return true
	case errors.As(err, &said): // PostgreSQL's classes of errors: connection exceptions, operator intervention, resources
		return len(said.Code) == 5 && (said.Code[:2] == "08" || said.Code[:2] == "57" || said.Code[:2] == "53")
	}
	return err != nil && strings.HasSuffix(err.Error(), "sql: database is closed")
}
