package store

import (
	"database/sql"
	"database/sql/driver"
	"errors"
	"io"
	"net"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/puddle/v2"
)

// Full reports whether an error means that the database's disk is full.
func Full(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "53100" || pg.Code == "53000")
}

// Unreachable reports whether an error means that the database does not answer, is starting, or went away in the
// middle. What was sent may have been stored or not: the sender asks again under the same key.
func Unreachable(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		// Connection exceptions, operator intervention, too many connections; a server that only reads, before it is the main one.
		return pg.Code[:2] == "08" || pg.Code[:2] == "57" || pg.Code == "53300" || pg.Code == "25006"
	}
	var connect *pgconn.ConnectError
	var network *net.OpError
	return errors.As(err, &connect) || errors.As(err, &network) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, net.ErrClosed) || errors.Is(err, puddle.ErrClosedPool) ||
		// A connection that broke between two statements: nothing was sent on it.
		pgconn.SafeToRetry(err) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, sql.ErrConnDone)
}
