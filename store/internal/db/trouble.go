package db

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"net"
	"regexp"
	"strings"

	mysqldriver "github.com/go-sql-driver/mysql"

	"itemrack/core/fault"
)

// troubles are what the server says when it can't work at the moment, by its numbers.
var troubles = map[uint16]string{
	1021: full, 1114: full, 3: full, 1026: full, 1037: full, 1041: full,
	1040: away, 1053: away, 1047: away, 1152: away, 1158: away, 1159: away, 1160: away, 1161: away, 1203: away, 1226: away,
	1290: "The shop's database takes no changes at the moment.",
	1836: "The shop's database takes no changes at the moment.",
	1205: busy, 1213: busy, 1020: busy,
}

const (
	full = "The shop's database has no room left."
	away = "The shop's database does not answer."
	busy = "Others are at what this needs."
)

// Trouble says in a sentence what is wrong with the database, when an error comes from
// that; empty for any other error.
func Trouble(err error) string {
	var refused *mysqldriver.MySQLError
	if errors.As(err, &refused) {
		return troubles[refused.Number]
	}
	var network net.Error
	if errors.Is(err, driver.ErrBadConn) || errors.Is(err, mysqldriver.ErrInvalidConn) ||
		errors.Is(err, sql.ErrConnDone) ||
		errors.Is(err, context.DeadlineExceeded) || errors.As(err, &network) {
		return away
	}
	return ""
}

var column = regexp.MustCompile(`column '(\w+)'`)

// bounded makes a refusal of what a column does not hold: a text that is too long, a figure
// that is too large. Rules say so before; this is so that none that is missing is an error of
// the program.
func bounded(err error) error {
	var refused *mysqldriver.MySQLError
	if !errors.As(err, &refused) {
		return err
	}
	name := "value"
	if found := column.FindStringSubmatch(refused.Message); found != nil {
		name = found[1]
	}
	switch refused.Number {
	case 1406:
		return fault.Field(name, "", "a shorter text", "The %s is too long to be kept.",
			strings.ReplaceAll(name, "_", " "))
	case 1264:
		return fault.Field(name, "", "a smaller figure", "The %s is too large to be kept.",
			strings.ReplaceAll(name, "_", " "))
	}
	return err
}
