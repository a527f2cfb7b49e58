// By hand: a migration is the SQL that it is.

package store

import (
	_ "embed"
	"errors"
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

//go:embed schema/0001.sql
var schema1 string

//go:embed schema/0002.sql
var schema2 string

//go:embed schema/0003.sql
var schema3 string

//go:embed schema/0004.sql
var schema4 string

//go:embed schema/0005.sql
var schema5 string

//go:embed schema/0006.sql
var schema6 string

//go:embed schema/0007.sql
var schema7 string

//go:embed schema/0008.sql
var schema8 string

//go:embed schema/0009.sql
var schema9 string

//go:embed schema/0010.sql
var schema10 string

//go:embed schema/0011.sql
var schema11 string

//go:embed schema/0012.sql
var schema12 string

//go:embed schema/0013.sql
var schema13 string

//go:embed schema/0014.sql
var schema14 string

//go:embed schema/0016.sql
var schema16 string

//go:embed schema/0017.sql
var schema17 string

//go:embed schema/0018.sql
var schema18 string

//go:embed schema/0019.sql
var schema19 string

//go:embed schema/0020.sql
var schema20 string

//go:embed schema/0021.sql
var schema21 string

//go:embed schema/0022.sql
var schema22 string

//go:embed schema/0023.sql
var schema23 string

//go:embed schema/0024.sql
var schema24 string

//go:embed schema/0025.sql
var schema25 string

//go:embed schema/0026.sql
var schema26 string

//go:embed schema/0027.sql
var schema27 string

//go:embed schema/0028.sql
var schema28 string

//go:embed schema/0029.sql
var schema29 string

//go:embed schema/0030.sql
var schema30 string

//go:embed schema/0015.sql
var schema15 string

// migrations are never edited once they have landed; a change is a new one.
var migrations = []*gormigrate.Migration{
	{ID: "0001", Migrate: func(db *gorm.DB) error { return script(db, schema1) }},
	{ID: "0002", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema2); err != nil {
			return err
		}
		return reread(db)
	}},
	{ID: "0003", Migrate: func(db *gorm.DB) error { return script(db, schema3) }},
	{ID: "0004", Migrate: func(db *gorm.DB) error { return script(db, schema4) }},
	{ID: "0005", Migrate: func(db *gorm.DB) error { return script(db, schema5) }},
	{ID: "0006", Migrate: func(db *gorm.DB) error { return script(db, schema6) }},
	{ID: "0007", Migrate: func(db *gorm.DB) error { return script(db, schema7) }},
	{ID: "0008", Migrate: func(db *gorm.DB) error { return script(db, schema8) }},
	{ID: "0009", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema9); err != nil {
			return err
		}
		if err := reread(db); err != nil {
			return err
		}
		return rerow(db)
	}},
	// What a row shows is read off its letters whole: its accounts and people too.
	{ID: "0010", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema10); err != nil {
			return err
		}
		if err := reread(db); err != nil {
			return err
		}
		return rerow(db)
	}},
	{ID: "0011", Migrate: func(db *gorm.DB) error { return script(db, schema11) }},
	{ID: "0012", Migrate: func(db *gorm.DB) error { return script(db, schema12) }},
	{ID: "0013", Migrate: func(db *gorm.DB) error { return script(db, schema13) }}, // 0019 counts
	{ID: "0014", Migrate: func(db *gorm.DB) error { return script(db, schema14) }},
	{ID: "0015", Migrate: func(db *gorm.DB) error { return script(db, schema15) }},
	{ID: "0016", Migrate: func(db *gorm.DB) error { return script(db, schema16) }},
	{ID: "0017", Migrate: func(db *gorm.DB) error { return script(db, schema17) }},
	{ID: "0018", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema18); err != nil {
			return err
		}
		if err := retrait(db); err != nil {
			return err
		}
		return rerow(db)
	}},
	{ID: "0019", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema19); err != nil {
			return err
		}
		return recount(db)
	}},
	{ID: "0020", Migrate: func(db *gorm.DB) error { return script(db, schema20) }},
	// Of letters that came before it is told, too, whether one signs in with them.
	{ID: "0021", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema21); err != nil {
			return err
		}
		return reread(db)
	}},
	{ID: "0022", Migrate: func(db *gorm.DB) error { return script(db, schema22) }},
	{ID: "0023", Migrate: func(db *gorm.DB) error { return script(db, schema23) }},
	{ID: "0024", Migrate: func(db *gorm.DB) error { return script(db, schema24) }},
	{ID: "0025", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema25); err != nil {
			return err
		}
		return reindex(db)
	}},
	{ID: "0026", Migrate: func(db *gorm.DB) error { return script(db, schema26) }},
	{ID: "0027", Migrate: func(db *gorm.DB) error { return script(db, schema27) }},
	{ID: "0028", Migrate: func(db *gorm.DB) error { return script(db, schema28) }},
	{ID: "0029", Migrate: func(db *gorm.DB) error { return script(db, schema29) }},
	{ID: "0030", Migrate: func(db *gorm.DB) error {
		if err := script(db, schema30); err != nil {
			return err
		}
		return neverAgain(db)
	}},
}

// errTooNew is returned for a file that a newer Ebbe has written.
var errTooNew = errors.New("this file was written by a newer Ebbe; please use that one")

func migrator(db *gorm.DB) *gormigrate.Gormigrate {
	options := *gormigrate.DefaultOptions
	options.TableName, options.UseTransaction, options.ValidateUnknownMigrations = "migrations", true, true
	return gormigrate.New(db, &options, migrations)
}

func migrate(db *gorm.DB) error {
	err := migrator(db).Migrate()
	if errors.Is(err, gormigrate.ErrUnknownPastMigration) {
		return errTooNew
	}
	return err
}

// script runs statement after statement; the driver prepares one at a time.
func script(db *gorm.DB, text string) error {
	var lines []string
	for line := range strings.SplitSeq(text, "\n") {
		if !strings.HasPrefix(strings.TrimSpace(line), "--") {
			lines = append(lines, line)
		}
	}
	for statement := range strings.SplitSeq(strings.Join(lines, "\n"), ";\n") {
		if strings.TrimSpace(statement) == "" {
			continue
		}
		if err := db.Exec(statement).Error; err != nil {
			return err
		}
	}
	return nil
}
