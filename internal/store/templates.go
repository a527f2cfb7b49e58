package store

import (
	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
)

// Template is a text that is used again and again, with fields to be filled in.
type Template struct {
	ID       int64  `json:"id"`
	Name     string `json:"name"`
	Subject  string `json:"subject"`
	Text     string `json:"text"`
	Markdown bool   `json:"markdown" doc:"Its text is Markdown"`
}

// Object names the template in changes.
func (t Template) Object() change.Object { return kinds.Template.Of(t.ID) }

// Templates lists the templates by name.
func (tx *Tx) Templates() ([]Template, error) {
	return pluck[Template](tx.ctx(), gorm.G[templateRow](tx.db).Where("alive").Order("name COLLATE NOCASE, id"), "id, name, subject, text, markdown")
}

// AddTemplate writes a template that is not alive yet.
func (tx *Tx) AddTemplate(t Template) (int64, error) {
	row := templateRow{Template: t}
	err := gorm.G[templateRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}

// ReceiverGroup are people who are written to together.
type ReceiverGroup struct {
	ID   int64
	Name string
	// Members are their addresses, with names where they are known.
	Members []string
}

// Object names the group in changes.
func (g ReceiverGroup) Object() change.Object { return kinds.ReceiverGroup.Of(g.ID) }

// ReceiverGroups lists the groups by name.
func (tx *Tx) ReceiverGroups() ([]ReceiverGroup, error) {
	rows, err := gorm.G[receiverGroupRow](tx.db).Where("alive").Order("name COLLATE NOCASE, id").Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	return readable(tx, "group of receivers", rows, func(r receiverGroupRow) int64 { return r.ID }, func(r receiverGroupRow) (ReceiverGroup, error) {
		return ReceiverGroup{ID: r.ID, Name: r.Name, Members: r.Members.V}, r.Members.Err
	}), nil
}

// AddReceiverGroup writes a group that is not alive yet.
func (tx *Tx) AddReceiverGroup(g ReceiverGroup) (int64, error) {
	row := receiverGroupRow{Name: g.Name, Members: keep(g.Members)}
	err := gorm.G[receiverGroupRow](tx.db).Create(tx.ctx(), &row)
	return row.ID, err
}
