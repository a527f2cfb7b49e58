package store

import (
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
)

type stageRow struct {
	Stage
	Owner Owner
	Alive bool
}

func (stageRow) TableName() string { return "stages" }

type labelRow struct {
	LabelLook
	Alive bool
	Owner Owner
}

func (labelRow) TableName() string { return "labels" }

type keptSearchRow struct {
	KeptSearch
	Alive bool
	Owner Owner
}

func (keptSearchRow) TableName() string { return "kept_searches" }

type keptFilterRow struct {
	KeptFilter
	Owner Owner
	Alive bool
}

func (keptFilterRow) TableName() string { return "kept_filters" }

type seriesRow struct {
	ID        int64
	Owner     Owner
	Alive     bool
	UID       string
	Value     kept[Series]
	KeptUntil stamp
	ExtendAt  maybeStamp
}

func (seriesRow) TableName() string { return "series" }

type appointmentRow struct {
	ID             int64
	Owner          Owner
	Alive          bool
	UID            string
	Sequence       int
	Title          string
	Place          string
	Notes          string
	Start          kept[when.Moment]
	StartAt        stamp
	EndAt          stamp
	Free           bool
	Cancelled      bool
	Organizer      kept[letter.Address]
	Attendees      kept[[]meeting.Attendee]
	Mine           bool
	Reply          meeting.Reply
	ConversationID int64
	Remind         int
	RemindState    string
	MadeAt         stamp
	RecurrenceAt   stamp
	SeriesID       int64
}

func (appointmentRow) TableName() string { return "appointments" }

type followUpRow struct {
	ID        int64
	Owner     Owner
	Alive     bool
	Title     string
	Notes     string
	Start     maybeKept[when.Moment]
	Due       maybeKept[when.Moment]
	DueAt     maybeStamp
	Priority  followup.Priority
	Status    followup.Status
	StageID   int64
	Assignee  string
	Project   string
	Context   string
	Estimate  int
	Flag      bool
	Recurs    maybeKept[followup.Recurrence]
	Checklist kept[[]followup.Item]
	UID       string
	MadeAt    stamp
	DoneAt    maybeStamp
	Letters   []followUpLetterRow `gorm:"foreignKey:FollowupID"`
	Reminders []reminderRow       `gorm:"foreignKey:FollowupID"`
}

func (followUpRow) TableName() string { return "followups" }

type followUpLetterRow struct {
	Owner      Owner
	FollowupID int64 `gorm:"primaryKey;autoIncrement:false"`
	LetterID   int64 `gorm:"primaryKey;autoIncrement:false"`
	Letter     *letterRow
	Subject    string
	Sender     string
	Date       stamp
	Ask        string
	Purged     bool
}

func (followUpLetterRow) TableName() string { return "followup_letters" }

type waitingLinkRow struct {
	Owner      Owner  `gorm:"primaryKey;autoIncrement:false"`
	MessageID  string `gorm:"primaryKey"`
	FollowupID int64  `gorm:"primaryKey;autoIncrement:false"`
}

func (waitingLinkRow) TableName() string { return "waiting_links" }

type reminderRow struct {
	ID         int64
	Owner      Owner
	FollowupID int64
	FollowUp   *followUpRow `gorm:"foreignKey:FollowupID"`
	Alive      bool
	Moment     kept[when.Moment]
	At         maybeStamp
	State      string
	Relative   maybeKept[when.Relative]
}

func (reminderRow) TableName() string { return "reminders" }

type expectationRow struct {
	ID             int64
	Owner          Owner
	Alive          bool
	ConversationID int64
	Persons        kept[[]string]
	AllOf          bool
	Answered       kept[[]string]
	StartID        string
	Since          stamp
	Until          maybeKept[when.Moment]
	UntilAt        maybeStamp
	State          waiting.State
	Late           bool
	MetBy          maybeID
	Offered        maybeID
	Away           string
	AwayUntil      string
	ForReturn      bool
	FollowupID     int64
}

func (expectationRow) TableName() string { return "expectations" }
