package store

import (
	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sitting"
	"ebbe.example/ebbe/internal/core/when"
)

// A model for each table. The schema itself is written in schema/, by migrations;
// a test holds the models to it. Where what the rest of Ebbe knows of an object is
// the same as its row, the model embeds it.

type personRow struct {
	Person
	MadeAt      stamp
	LookAt      maybeStamp
	DeliverAt   maybeStamp
	DeliverySeq int64
	SurfaceAt   maybeStamp
}

func (personRow) TableName() string { return "people" }

type planRow struct {
	ID     int64
	Owner  Owner
	Value  kept[delivery.Plan]
	MadeAt stamp
}

func (planRow) TableName() string { return "plans" }

type planHistoryRow struct {
	ID     int64
	Owner  Owner
	PlanID int64
	Plan   *planRow
	At     stamp
}

func (planHistoryRow) TableName() string { return "plan_history" }

type letThroughRow struct {
	ID        int64
	Owner     Owner
	Alive     bool
	Kind      delivery.ThroughKind
	Value     string
	KeyPerson bool
	Until     maybeKept[when.Moment]
	UntilAt   maybeStamp
	MadeAt    stamp
}

func (letThroughRow) TableName() string { return "let_through" }

type spotRow struct {
	Spot
	Owner Owner
	Alive bool
}

func (spotRow) TableName() string { return "spots" }

type templateRow struct {
	Template
	Owner Owner
	Alive bool
}

func (templateRow) TableName() string { return "templates" }

type sittingRow struct {
	ID      int64
	Owner   Owner
	Person  int64
	Alive   bool
	BeganAt stamp
	UntilAt maybeStamp
	EndedAt maybeStamp
	Heap    kept[sitting.Heap]
	Letters kept[[]int64]
	Skipped kept[[]int64]
}

func (sittingRow) TableName() string { return "sittings" }

type routineRow struct {
	ID       int64
	Owner    Owner
	Alive    bool
	Name     string
	Key      string
	Position int
	Steps    kept[[]routine.Step]
}

func (routineRow) TableName() string { return "routines" }

type ruleRow struct {
	ID         int64
	Owner      Owner
	Alive      bool
	Name       string
	Position   int
	Conditions kept[rule.Conditions]
	Steps      kept[[]routine.Step]
	Stop       bool
	Off        bool
	People     bool
	Until      maybeKept[when.Moment]
	Said       string
	MadeAt     stamp
}

func (ruleRow) TableName() string { return "rules" }

type savingRow struct {
	ID       int64
	Owner    Owner
	Alive    bool
	RuleID   int64
	LetterID int64
	Part     int
	Path     string
	SavedAs  string
	Tries    int
	NextAt   maybeStamp
}

func (savingRow) TableName() string { return "savings" }

type receiverGroupRow struct {
	ID      int64
	Owner   Owner
	Alive   bool
	Name    string
	Members kept[[]string]
}

func (receiverGroupRow) TableName() string { return "receiver_groups" }

type contactRow struct {
	ID     int64
	Owner  Owner
	Alive  bool
	Name   string
	Emails kept[[]string]
	Phones kept[[]string]
	Org    string
	Note   string
}

func (contactRow) TableName() string { return "contacts" }

type accountRow struct {
	Account
	Owner      Owner
	Alive      bool
	Signatures kept[[]letter.Signature]
	SendAs     kept[[]letter.Address]
	Away       maybeKept[autoanswer.Absence]
}

func (accountRow) TableName() string { return "accounts" }

type ownAddressRow struct {
	Address   string `gorm:"primaryKey"`
	Owner     Owner  `gorm:"primaryKey;autoIncrement:false"`
	AccountID int64
	Account   *accountRow
}

func (ownAddressRow) TableName() string { return "own_addresses" }

type holdRow struct {
	ID         int64
	Owner      Owner
	Alive      bool
	AccountID  int64
	FromAt     stamp
	Until      maybeKept[when.Moment]
	UntilAt    maybeStamp
	EndedAt    maybeStamp
	Everything bool
	Opens      bool
}

func (holdRow) TableName() string { return "holds" }

type entryRow struct {
	ID         int64
	Owner      Owner
	Person     int64
	CommandID  string
	Asked      string
	Kind       string
	Actor      string
	Cause      string
	Title      string
	At         stamp
	RecordedAt stamp
	Undoable   bool
	UndoOf     maybeID
	UndoneBy   maybeID
	Result     string
}

func (entryRow) TableName() string { return "journal" }

type changeRow struct {
	ID            int64
	Owner         Owner
	JournalID     int64
	Object        change.Kind
	ObjectID      int64
	Field         string
	Person        int64
	Was           string
	Now           string
	VersionBefore int64
	VersionAfter  int64
}

func (changeRow) TableName() string { return "changes" }

type fieldVersionRow struct {
	Object   change.Kind `gorm:"primaryKey"`
	ObjectID int64       `gorm:"primaryKey;autoIncrement:false"`
	Field    string      `gorm:"primaryKey"`
	Person   int64       `gorm:"primaryKey;autoIncrement:false"`
	Owner    Owner
	Version  int64
}

func (fieldVersionRow) TableName() string { return "field_versions" }

type stuckRow struct {
	ID       int64
	Owner    Owner
	Kind     string
	ObjectID int64
	Title    string
	Reason   string
	Tries    int
	Since    stamp
	AgainAt  stamp
}

func (stuckRow) TableName() string { return "stuck" }

type factRow struct {
	Name  string `gorm:"primaryKey"`
	Value string
}

func (factRow) TableName() string { return "facts" }

type bagRow struct {
	ID         int64
	Due        stamp
	Sender     string
	Recipients string
	Data       []byte
	Taken      bool
}

func (bagRow) TableName() string { return "post_bag" }

type sessionRow struct {
	Token   string `gorm:"primaryKey"`
	Data    []byte
	Expires stamp
}

func (sessionRow) TableName() string { return "sessions" }

type migrationRow struct {
	ID string `gorm:"primaryKey"`
}

func (migrationRow) TableName() string { return "migrations" }
