package store

import (
	"context"
	"errors"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/schema"
)

// Owner is whose a row is: the inbox it belongs to. A model with this field is
// limited to the inbox of the transaction in whatever GORM reads, changes or
// takes away, and what is added belongs to that inbox. Nobody has to think of it,
// so nobody can forget it.
type Owner int64

// scope is whose rows a handle sees. It is kept with the handle as a plugin of
// GORM's, since that goes along into whatever is made of it: sessions, subqueries,
// preloads.
type scope struct {
	inbox     int64
	everybody bool
	// few tells that a few rows are named by their ids.
	few bool
}

const scopeName = "ebbe:scope"

// Name is that under which the handle keeps it.
func (scope) Name() string { return scopeName }

// Initialize has nothing to do.
func (scope) Initialize(*gorm.DB) error { return nil }

// scoped is the same handle with another scope.
func scoped(db *gorm.DB, s scope) *gorm.DB {
	out := db.Session(&gorm.Session{})
	out.Plugins = map[string]gorm.Plugin{scopeName: s}
	return out
}

// limited is a handle to the rows of one inbox.
func limited(db *gorm.DB, inbox int64) *gorm.DB { return scoped(db, scope{inbox: inbox}) }

// everybody is a handle to all rows, whosoever: for system queries, which a test
// lists.
func everybody(db *gorm.DB) *gorm.DB { return scoped(db, scope{everybody: true}) }

// few is the handle for what names a few rows by their ids. It keeps SQLite from
// walking all rows of the inbox by an index that begins with the owner.
func (tx *Tx) few() *gorm.DB { return scoped(tx.db, scope{inbox: tx.who.Inbox, few: true}) }

func (tx *Tx) ctx() context.Context { return tx.db.Statement.Context }

// errNobodys is returned, before anything is asked, where rows that belong to
// somebody are asked for by a handle that doesn't say whose.
var errNobodys = errors.New("rows that belong to somebody, by a handle that is limited to nobody")

// ownerClause limits statements to the rows of the handle's inbox.
type ownerClause struct {
	field  *schema.Field
	adding bool
}

// QueryClauses limits what is read.
func (Owner) QueryClauses(f *schema.Field) []clause.Interface {
	return []clause.Interface{ownerClause{field: f}}
}

// UpdateClauses limits what is changed.
func (Owner) UpdateClauses(f *schema.Field) []clause.Interface {
	return []clause.Interface{ownerClause{field: f}}
}

// DeleteClauses limits what is taken away.
func (Owner) DeleteClauses(f *schema.Field) []clause.Interface {
	return []clause.Interface{ownerClause{field: f}}
}

// CreateClauses gives what is added its owner.
func (Owner) CreateClauses(f *schema.Field) []clause.Interface {
	return []clause.Interface{ownerClause{field: f, adding: true}}
}

// Name, Build and MergeClause make it a clause; it is none that is written, but
// changes the statement.
func (ownerClause) Name() string               { return "" }
func (ownerClause) Build(clause.Builder)       {}
func (ownerClause) MergeClause(*clause.Clause) {}

const ownerAdded = "ebbe:owner"

// ModifyStatement adds the condition once, around whatever else is asked for.
func (o ownerClause) ModifyStatement(stmt *gorm.Statement) {
	if _, done := stmt.Clauses[ownerAdded]; done || stmt.SQL.Len() > 0 {
		return
	}
	s, ok := stmt.DB.Plugins[scopeName].(scope)
	if !ok {
		_ = stmt.AddError(errNobodys)
		return
	}
	if s.everybody {
		return
	}
	if o.adding {
		stmt.SetColumn(o.field.Name, s.inbox, true)
		return
	}
	if c, ok := stmt.Clauses["WHERE"]; ok {
		if where, ok := c.Expression.(clause.Where); ok && len(where.Exprs) > 0 {
			c.Expression = clause.Where{Exprs: []clause.Expression{clause.And(where.Exprs...)}}
			stmt.Clauses["WHERE"] = c
		}
	}
	whose := "? = ?"
	if s.few {
		whose = "+" + whose
	}
	stmt.AddClause(clause.Where{Exprs: []clause.Expression{
		gorm.Expr(whose, clause.Column{Table: clause.CurrentTable, Name: o.field.DBName}, s.inbox),
	}})
	stmt.Clauses[ownerAdded] = clause.Clause{}
}
