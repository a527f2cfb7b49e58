package store

import (
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// What columns hold beside numbers, texts and bytes. A value that can't be
// read never fails the query: its error is kept beside it, for one bad row never
// stops the rest.

// stamp is an instant as it is kept: milliseconds since 1970, and 0 for the zero
// time.
type stamp struct{ time.Time }

// GormDataType tells GORM what the column is.
func (stamp) GormDataType() string { return "integer" }

// Value is what is written.
func (s stamp) Value() (driver.Value, error) { return millis(s.Time), nil }

// Scan reads what was written, in UTC.
func (s *stamp) Scan(v any) error {
	ms, ok := v.(int64)
	if !ok && v != nil {
		return fmt.Errorf("an instant, not %T", v)
	}
	s.Time = fromMillis(ms)
	return nil
}

// maybeStamp is an instant that there may not be: NULL for the zero time.
type maybeStamp struct{ stamp }

// Value is what is written.
func (s maybeStamp) Value() (driver.Value, error) {
	if s.IsZero() {
		return nil, nil
	}
	return s.stamp.Value()
}

func at(t time.Time) stamp { return stamp{t} }

// times are the instants of stamps.
func times(stamps []stamp, err error) ([]time.Time, error) {
	out := make([]time.Time, len(stamps))
	for i, s := range stamps {
		out[i] = s.Time
	}
	return out, err
}

func maybeAt(t time.Time) maybeStamp { return maybeStamp{stamp{t}} }

// maybeID names a row, or none: NULL for 0.
type maybeID int64

// GormDataType tells GORM what the column is.
func (maybeID) GormDataType() string { return "integer" }

// Value is what is written.
func (id maybeID) Value() (driver.Value, error) {
	if id == 0 {
		return nil, nil
	}
	return int64(id), nil
}

// Scan reads what was written.
func (id *maybeID) Scan(v any) error {
	n, ok := v.(int64)
	if !ok && v != nil {
		return fmt.Errorf("an id, not %T", v)
	}
	*id = maybeID(n)
	return nil
}

// to is what a column is set to.
func to(column string, value any) clause.Assignment {
	return clause.Assignment{Column: clause.Column{Name: column}, Value: value}
}

// inNumbers is the condition that a column holds one of the numbers. However many
// they are, they are one value of the statement.
func inNumbers(column string, numbers []int64) clause.Expr {
	return gorm.Expr(column+" IN (SELECT value FROM json_each(?))", jsonIDs(numbers))
}

// kept is a value that stands in its column as JSON.
type kept[T any] struct {
	V   T
	Err error // why it can't be read
}

func keep[T any](v T) kept[T] { return kept[T]{V: v} }

// GormDataType tells GORM what the column is.
func (kept[T]) GormDataType() string { return "text" }

// Value is what is written.
func (k kept[T]) Value() (driver.Value, error) {
	b, err := json.Marshal(k.V)
	return string(b), err
}

// Scan reads what was written.
func (k *kept[T]) Scan(v any) error {
	switch x := v.(type) {
	case nil:
	case string:
		k.Err = json.Unmarshal([]byte(x), &k.V)
	case []byte:
		k.Err = json.Unmarshal(x, &k.V)
	default:
		return fmt.Errorf("JSON, not %T", v)
	}
	return nil
}

// maybeKept is such a value that there may not be: NULL for nil.
type maybeKept[T any] struct{ kept[*T] }

func maybe[T any](v *T) maybeKept[T] { return maybeKept[T]{kept[*T]{V: v}} }

// Value is what is written.
func (k maybeKept[T]) Value() (driver.Value, error) {
	if k.V == nil {
		return nil, nil
	}
	return k.kept.Value()
}
