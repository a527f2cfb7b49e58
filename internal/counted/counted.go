// Package counted counts what is asked of a database, for tests that hold a figure
// by counts, which come out the same on any machine, instead of by the clock.
package counted

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"fmt"
	"sync"
	"sync/atomic"

	"github.com/mattn/go-sqlite3"
	"github.com/ngrok/sqlmw"
)

// Counter is what was asked since it was made.
type Counter struct {
	sqlmw.NullInterceptor
	statements, rows atomic.Int64
	mu               sync.Mutex
	by               map[string]int64
}

// drivers numbers the drivers, each of which has a name of its own.
var drivers atomic.Int64

// Driver makes a counter and a driver that counts by it, to open a store by.
func Driver() (name string, c *Counter) {
	c = &Counter{by: map[string]int64{}}
	name = fmt.Sprint("counted-", drivers.Add(1))
	sql.Register(name, sqlmw.Driver(&sqlite3.SQLiteDriver{}, c))
	return name, c
}

// Statements is how many statements were carried out.
func (c *Counter) Statements() int64 { return c.statements.Load() }

// Rows is how many rows were read of their answers.
func (c *Counter) Rows() int64 { return c.rows.Load() }

// Most is the statement that was carried out most often since the last reset, and
// how often.
func (c *Counter) Most() (statement string, times int64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for s, n := range c.by {
		if n > times {
			statement, times = s, n
		}
	}
	return statement, times
}

// Reset begins anew.
func (c *Counter) Reset() {
	c.mu.Lock()
	defer c.mu.Unlock()
	clear(c.by)
	c.statements.Store(0)
	c.rows.Store(0)
}

func (c *Counter) count(statement string) {
	c.statements.Add(1)
	c.mu.Lock()
	defer c.mu.Unlock()
	c.by[statement]++
}

// ConnExecContext counts a statement that gives nothing.
func (c *Counter) ConnExecContext(ctx context.Context, conn driver.ExecerContext, query string, args []driver.NamedValue) (driver.Result, error) {
	c.count(query)
	return conn.ExecContext(ctx, query, args)
}

// ConnQueryContext counts a statement that gives rows.
func (c *Counter) ConnQueryContext(ctx context.Context, conn driver.QueryerContext, query string, args []driver.NamedValue) (context.Context, driver.Rows, error) {
	c.count(query)
	rows, err := conn.QueryContext(ctx, query, args)
	return ctx, rows, err
}

// StmtExecContext counts a prepared statement that gives nothing.
func (c *Counter) StmtExecContext(ctx context.Context, stmt driver.StmtExecContext, query string, args []driver.NamedValue) (driver.Result, error) {
	c.count(query)
	return stmt.ExecContext(ctx, args)
}

// StmtQueryContext counts a prepared statement that gives rows.
func (c *Counter) StmtQueryContext(ctx context.Context, stmt driver.StmtQueryContext, query string, args []driver.NamedValue) (context.Context, driver.Rows, error) {
	c.count(query)
	rows, err := stmt.QueryContext(ctx, args)
	return ctx, rows, err
}

// RowsNext counts a row that is read.
func (c *Counter) RowsNext(_ context.Context, rows driver.Rows, dest []driver.Value) error {
	err := rows.Next(dest)
	if err == nil {
		c.rows.Add(1)
	}
	return err
}
