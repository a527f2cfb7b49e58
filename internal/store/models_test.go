package store

import (
	"reflect"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
	"gorm.io/gorm/schema"
)

// models are those of the rows that belong to an inbox.
var models = []schema.Tabler{
	planRow{}, templateRow{}, receiverGroupRow{}, contactRow{}, savingRow{}, sittingRow{}, routineRow{}, ruleRow{}, keptFileRow{}, planHistoryRow{}, letThroughRow{}, spotRow{}, correctionRow{}, lessonRow{}, stageRow{}, keptFilterRow{}, keptSearchRow{}, labelRow{}, seriesRow{}, appointmentRow{}, accountRow{}, ownAddressRow{},
	conversationRow{}, conversationRedirectRow{}, conversationAccountRow{}, conversationPersonRow{}, conversationLabelRow{}, letterRow{}, letterIDRow{}, arrivalRow{},
	personalMarkRow{}, placeHistoryRow{}, returnRow{}, followUpRow{}, followUpLetterRow{}, waitingLinkRow{}, reminderRow{}, expectationRow{}, draftRow{}, attachmentRow{}, attachmentPieceRow{}, outgoingRow{},
	holdRow{}, entryRow{}, changeRow{}, fieldVersionRow{}, knownPersonRow{}, senderRow{}, importRow{}, importTroubleRow{}, blobRow{}, blobPieceRow{}, preparedRow{},
	remoteRow{}, remoteFolderRow{}, remoteLetterRow{}, remoteKeywordRow{}, remoteDraftRow{}, remoteTaskRow{}, stuckRow{}, tallyRow{}, purgedRow{}, erasedRow{}, tideRow{}, placeCountRow{},
}

// fill puts something into every column of a row; n makes it another row.
func fill(t *testing.T, columns []*schema.Field, row reflect.Value, n int) {
	t.Helper()
	at := time.Date(2026, 10, 25, 1, 30, 0, 123e6, time.UTC)
	for i, f := range columns {
		v := f.ReflectValueOf(t.Context(), row)
		switch x := v.Addr().Interface().(type) {
		case *Owner:
		case *stamp:
			x.Time = at.Add(time.Duration(i+n) * time.Minute)
		case *maybeStamp:
			x.Time = at.Add(time.Duration(i+n) * time.Hour)
		case *maybeID:
			*x = maybeID(100*n + i + 1)
		case **string:
			text := f.DBName
			*x = &text
		case *[]byte:
			*x = []byte{0, byte(n), byte(i)}
		case *string:
			*x = f.DBName + string(rune('a'+n))
		default:
			switch v.Kind() {
			case reflect.Int, reflect.Int64:
				v.SetInt(int64(1000*n + i + 1))
			case reflect.Bool:
				v.SetBool(i%2 == 0)
			case reflect.String:
				v.SetString(f.DBName + string(rune('a'+n)))
			case reflect.Struct: // kept as JSON: the zero value is one as good as others
			default:
				require.Fail(t, "nothing is known of such a column", "%s.%s", f.Schema.Table, f.DBName)
			}
		}
	}
}

// What a model writes it reads, column by column; it is of its own inbox, whatever it
// said itself, and no other inbox sees it, changes it or takes it away.
func TestModelsKeepToTheirInbox(t *testing.T) {
	s, who := open(t)
	other, err := s.AddPerson(t.Context(), Person{Name: "Tove", SignIn: "tove", Zone: "Europe/Oslo"}, []Account{{Address: "tove@n.example"}}, time.Now())
	require.NoError(t, err)
	names := make([]string, len(models))
	for i, m := range models {
		names[i] = m.TableName()
		t.Run(m.TableName(), func(t *testing.T) {
			abandoned := s.Write(t.Context(), who, func(tx *Tx) error {
				require.NoError(t, tx.exec("PRAGMA defer_foreign_keys = 1"))
				theirs := tx.at(other.Inbox)
				columns := tableOf(m.TableName()).columns
				add := func(db *gorm.DB, n int) reflect.Value {
					row := reflect.New(reflect.TypeOf(m))
					fill(t, columns, row.Elem(), n)
					require.NoError(t, db.Create(row.Interface()).Error)
					return row
				}
				count := func(db *gorm.DB) (n int64) {
					require.NoError(t, db.Model(reflect.New(reflect.TypeOf(m)).Interface()).Count(&n).Error)
					return n
				}
				before, theirsBefore := count(tx.db), count(theirs.db)
				mine := add(tx.db, 1)
				add(theirs.db, 2)
				assert.Equal(t, before+1, count(tx.db))
				assert.Equal(t, theirsBefore+1, count(theirs.db))

				again := reflect.New(reflect.TypeOf(m))
				keyed := func(db *gorm.DB) *gorm.DB {
					for _, f := range columns {
						if v, _ := f.ValueOf(t.Context(), mine.Elem()); f.PrimaryKey && f.Name != "Owner" {
							db = db.Where(f.DBName+" = ?", v)
						}
					}
					return db
				}
				require.NoError(t, keyed(tx.db).Take(again.Interface()).Error)
				for _, f := range columns {
					wrote, _ := f.ValueOf(t.Context(), mine.Elem())
					read, _ := f.ValueOf(t.Context(), again.Elem())
					if f.Name == "Owner" {
						assert.Equal(t, Owner(who.Inbox), read)
					} else {
						assert.Equal(t, wrote, read, f.DBName)
					}
				}
				assert.ErrorIs(t, keyed(theirs.db).Take(reflect.New(reflect.TypeOf(m)).Interface()).Error, ErrNotFound)
				gone := theirs.db.Where("true").Delete(reflect.New(reflect.TypeOf(m)).Interface())
				require.NoError(t, gone.Error)
				assert.Equal(t, theirsBefore+1, gone.RowsAffected)
				assert.Equal(t, before+1, count(tx.db), "what is mine is still there")
				return ErrNotFound
			})
			require.ErrorIs(t, abandoned, ErrNotFound)
		})
	}
	for _, k := range tables {
		assert.Equal(t, k.owner == "owner", slices.Contains(names, k.name), k.name)
	}
}
