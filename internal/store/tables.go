package store

import (
	"fmt"
	"reflect"
	"slices"
	"sync"

	"gorm.io/gorm/schema"
)

// table is a table of the schema, and what is to be known of it beside its
// columns. Archive and check are made from these; a test holds them to the schema.
type table struct {
	name    string
	columns []*schema.Field
	// owner is the column of whose a row is; empty where rows are nobody's.
	owner string
	// archived tells that an archive holds it. What is not is made anew or, such as
	// sessions, not the person's.
	archived bool
	refs     []reference
	blob     string // a column of bytes, which JSON carries in base64
}

// unarchived is the table of a model.
func unarchived(model schema.Tabler, refs ...reference) table {
	s, err := schema.Parse(model, &sync.Map{}, schema.NamingStrategy{})
	if err != nil {
		panic(err) // a model that GORM can't read; every test would see it
	}
	t := table{name: model.TableName(), refs: refs}
	for _, f := range s.Fields {
		if f.DBName == "" {
			continue // an association
		}
		t.columns = append(t.columns, f)
		if f.FieldType == reflect.TypeFor[Owner]() {
			t.owner = f.DBName
		}
		if f.FieldType == reflect.TypeFor[[]byte]() {
			t.blob = f.DBName
		}
	}
	if t.name == (personRow{}).TableName() {
		t.owner = "id"
	}
	return t
}

// archived is one that an archive holds.
func archived(model schema.Tabler, refs ...reference) table {
	t := unarchived(model, refs...)
	t.archived = true
	return t
}

// reference is a column that names a row of another table of the same owner; 0
// and NULL name none.
type reference struct {
	column, to string
	// but is the condition under which what it names may be gone.
	but string
}

// never and outlives are such conditions: the second of what stays when a purge
// takes away what it belongs to.
const (
	never    = "0"
	outlives = "1"
)

// tables are all tables; those of an archive in the order in which they can be
// filled.
var tables = []table{
	archived(personRow{}, reference{"plan_id", "plans", never}, reference{"spot_id", "spots", never}),
	archived(planRow{}),
	archived(planHistoryRow{}, reference{"plan_id", "plans", never}),
	archived(letThroughRow{}),
	archived(spotRow{}),
	archived(correctionRow{}),
	archived(templateRow{}),
	archived(receiverGroupRow{}),
	archived(contactRow{}),
	archived(sittingRow{}),
	archived(routineRow{}),
	archived(ruleRow{}),
	archived(stageRow{}),
	archived(keptFilterRow{}),
	archived(keptSearchRow{}),
	archived(labelRow{}),
	archived(seriesRow{}),
	archived(appointmentRow{}, reference{"conversation_id", "conversations", outlives}, reference{"series_id", "series", never}),
	archived(accountRow{}, reference{"plan_id", "plans", "f.plan_id < 0"}),
	archived(ownAddressRow{}, reference{"account_id", "accounts", never}),
	archived(conversationRow{}),
	archived(conversationRedirectRow{}, reference{"to_id", "conversations", outlives}),
	archived(conversationAccountRow{}, reference{"conversation_id", "conversations", never}, reference{"account_id", "accounts", never}),
	archived(conversationPersonRow{}, reference{"conversation_id", "conversations", never}),
	archived(conversationLabelRow{}, reference{"conversation_id", "conversations", never}),
	archived(letterRow{}, reference{"conversation_id", "conversations", never}),
	archived(letterIDRow{}, reference{"letter_id", "letters", never}),
	archived(arrivalRow{}, reference{"letter_id", "letters", never}, reference{"account_id", "accounts", never}),
	archived(personalMarkRow{}, reference{"conversation_id", "conversations", never}),
	archived(purgedRow{}),
	archived(erasedRow{}),
	archived(placeHistoryRow{}, reference{"journal_id", "journal", never}, reference{"conversation_id", "conversations", outlives}),
	archived(returnRow{}, reference{"conversation_id", "conversations", never}, reference{"spot_id", "spots", never}),
	archived(followUpRow{}, reference{"stage_id", "stages", never}),
	archived(followUpLetterRow{}, reference{"followup_id", "followups", never}, reference{"letter_id", "letters", "f.purged = 1"}),
	archived(waitingLinkRow{}, reference{"followup_id", "followups", never}),
	archived(reminderRow{}, reference{"followup_id", "followups", never}),
	archived(expectationRow{}, reference{"conversation_id", "conversations", "f.alive = 0"}, reference{"followup_id", "followups", never}),
	archived(draftRow{}, reference{"conversation_id", "conversations", outlives}),
	archived(attachmentRow{}),
	archived(attachmentPieceRow{}),
	archived(keptFileRow{}, reference{"conversation_id", "conversations", outlives}, reference{"template_id", "templates", never}),
	archived(outgoingRow{}, reference{"account_id", "accounts", never}, reference{"conversation_id", "conversations", outlives}),
	archived(holdRow{}, reference{"account_id", "accounts", never}),
	archived(entryRow{}, reference{"undo_of", "journal", never}, reference{"undone_by", "journal", never}),
	archived(lessonRow{}, reference{"journal_id", "journal", never}, reference{"forgotten_by", "journal", never}, reference{"letter_id", "letters", outlives}),
	archived(savingRow{}, reference{"rule_id", "rules", never}, reference{"letter_id", "letters", outlives}),
	archived(changeRow{}, reference{"journal_id", "journal", never}),
	archived(fieldVersionRow{}),
	archived(knownPersonRow{}),
	archived(senderRow{}),
	archived(importRow{}, reference{"journal_id", "journal", never}),
	archived(importTroubleRow{}, reference{"import_id", "imports", never}, reference{"letter_id", "letters", outlives}),
	unarchived(blobRow{}),
	unarchived(blobPieceRow{}),
	unarchived(preparedRow{}, reference{"letter_id", "letters", never}),
	unarchived(remoteRow{}, reference{"account_id", "accounts", never}),
	unarchived(remoteFolderRow{}, reference{"account_id", "accounts", never}),
	unarchived(remoteLetterRow{}, reference{"folder_id", "remote_folders", never}, reference{"letter_id", "letters", never}),
	unarchived(remoteDraftRow{}, reference{"folder_id", "remote_folders", never}, reference{"draft", "drafts", outlives}),
	unarchived(remoteKeywordRow{}, reference{"account_id", "accounts", never}),
	unarchived(remoteTaskRow{}, reference{"account_id", "accounts", never}, reference{"conversation_id", "conversations", outlives}, reference{"letter_id", "letters", outlives}),
	unarchived(stuckRow{}),
	unarchived(tallyRow{}),
	unarchived(tideRow{}),
	unarchived(placeCountRow{}),
	unarchived(factRow{}),
	unarchived(bagRow{}),
	unarchived(sessionRow{}),
	unarchived(migrationRow{}),
}

// ArchivedTables are the tables of an archive, in the order in which they can
// be filled.
func ArchivedTables() (names []string) {
	for _, t := range tables {
		if t.archived {
			names = append(names, t.name)
		}
	}
	return names
}

// tableOf is a table by its name.
func tableOf(name string) table {
	return tables[slices.IndexFunc(tables, func(t table) bool { return t.name == name })]
}

// strayReferences lists what names rows that are not there or are somebody
// else's, and what belongs to nobody.
//
// By hand: the same question of every table.
func (tx *Tx) strayReferences() (wrong []string, err error) {
	for _, t := range tables {
		for _, r := range t.refs {
			n, err := tx.firstID(fmt.Sprintf("SELECT count(*) FROM %s f LEFT JOIN %s t ON t.id = f.%s WHERE f.%s <> 0 AND (t.id IS NULL AND NOT (%s) OR t.owner <> f.%s)",
				t.name, r.to, r.column, r.column, r.but, t.owner))
			if err != nil {
				return wrong, err
			}
			if n > 0 {
				wrong = append(wrong, fmt.Sprintf("the %s of %d rows of %s is not there, or somebody else's", r.column, n, t.name))
			}
		}
		if t.owner != "owner" {
			continue
		}
		n, err := tx.firstID("SELECT count(*) FROM " + t.name + " WHERE owner NOT IN (SELECT id FROM people)")
		if err != nil {
			return wrong, err
		}
		if n > 0 {
			wrong = append(wrong, fmt.Sprintf("%d rows of %s belong to nobody", n, t.name))
		}
	}
	return wrong, nil
}
