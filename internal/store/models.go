package store

import (
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/waiting"
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

type stageRow struct {
	Stage
	Owner Owner
	Alive bool
}

func (stageRow) TableName() string { return "stages" }

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

type accountRow struct {
	Account
	Owner Owner
	Alive bool
}

func (accountRow) TableName() string { return "accounts" }

type ownAddressRow struct {
	Address   string `gorm:"primaryKey"`
	Owner     Owner  `gorm:"primaryKey;autoIncrement:false"`
	AccountID int64
	Account   *accountRow
}

func (ownAddressRow) TableName() string { return "own_addresses" }

type conversationRow struct {
	ID           int64
	Owner        Owner
	Place        decide.Place
	PlaceSince   stamp
	QueueAt      stamp
	BackRank     int64
	Back         maybeKept[decide.Back]
	PutOffs      int
	Decided      int64
	Priority     string
	Note         string
	WorkingTitle string
	Subject      string
	BareSubject  string
	FromName     string
	FromEmail    string
	Ask          string
	Asks         bool
	Letters      int
	Attachments  int
	LastLetter   int64
	LastAt       stamp
	RoundAt      stamp
	Apart        int64
	Through      string
	Speaker      int64
	Opener       int64
	Quiet        bool
}

func (conversationRow) TableName() string { return "conversations" }

type conversationRedirectRow struct {
	Owner  Owner
	FromID int64 `gorm:"primaryKey;autoIncrement:false"`
	ToID   int64
}

func (conversationRedirectRow) TableName() string { return "conversation_redirects" }

type conversationAccountRow struct {
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
	AccountID      int64 `gorm:"primaryKey;autoIncrement:false"`
	Owner          Owner
}

func (conversationAccountRow) TableName() string { return "conversation_accounts" }

type conversationPersonRow struct {
	ConversationID int64  `gorm:"primaryKey;autoIncrement:false"`
	Person         string `gorm:"primaryKey"`
	Owner          Owner
}

func (conversationPersonRow) TableName() string { return "conversation_persons" }

type conversationLabelRow struct {
	Owner          Owner  `gorm:"primaryKey;autoIncrement:false"`
	Label          string `gorm:"primaryKey"`
	ConversationID int64  `gorm:"primaryKey;autoIncrement:false"`
}

func (conversationLabelRow) TableName() string { return "conversation_labels" }

type letterRow struct {
	ID             int64
	Owner          Owner
	ConversationID maybeID
	Identity       string
	MessageID      string
	Own            bool
	Automatic      letter.Automatic
	FromName       string
	FromEmail      string
	Recipients     kept[Recipients]
	Subject        string
	Date           stamp
	ReceivedAt     stamp
	InAt           maybeStamp
	Ask            string
	Asks           bool
	Parts          kept[[]PartInfo]
	HTML           bool
	Attachments    int
	Sha            []byte
	Damage         string
	Twin           bool
	RowKey         int64
	Report         maybeKept[letter.Reported]
	ReadReceipt    string `gorm:"column:receipt"`
	BareSubject    string
	Joins          bool
	Through        string
	Mentions       bool
	RoundAt        stamp
}

func (letterRow) TableName() string { return "letters" }

type letterIDRow struct {
	Owner    Owner  `gorm:"primaryKey;autoIncrement:false"`
	Ref      string `gorm:"primaryKey"`
	LetterID int64  `gorm:"primaryKey;autoIncrement:false"`
}

func (letterIDRow) TableName() string { return "letter_ids" }

type arrivalRow struct {
	ID         int64
	Owner      Owner
	LetterID   int64
	AccountID  maybeID
	Source     string
	ReceivedAt stamp
	State      string
	InAt       maybeStamp
	Sha        []byte
	ReturnPath *string
}

func (arrivalRow) TableName() string { return "arrivals" }

type personalMarkRow struct {
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
	Person         int64 `gorm:"primaryKey;autoIncrement:false"`
	Owner          Owner
	Star           bool
	Seen           int64
}

func (personalMarkRow) TableName() string { return "personal_marks" }

type placeHistoryRow struct {
	ID             int64
	Owner          Owner
	ConversationID int64
	Was            decide.Place
	Now            decide.Place
	At             stamp
	JournalID      int64
}

func (placeHistoryRow) TableName() string { return "place_history" }

type returnRow struct {
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
	Owner          Owner
	Due            maybeStamp
	Precise        bool
	Waits          bool
	Value          kept[decide.Return]
	SpotID         int64
}

func (returnRow) TableName() string { return "returns" }

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

type draftRow struct {
	ID             string `gorm:"primaryKey"`
	Owner          Owner  `gorm:"primaryKey;autoIncrement:false"`
	Alive          bool
	ConversationID int64
	Kind           string
	Value          string
	UpdatedAt      stamp `gorm:"autoUpdateTime:false"`
	Number         int64
}

func (draftRow) TableName() string { return "drafts" }

type outgoingRow struct {
	ID             int64
	Owner          Owner
	AccountID      int64
	ConversationID int64
	Draft          string
	MessageID      string
	Sender         string
	Recipients     kept[[]string]
	Subject        string
	Sha            []byte
	State          sending.Stage
	SendAt         stamp
	Tries          int
	Trouble        string
	MadeAt         stamp
	AutoTo         string
	AutoKind       string
	Outcomes       kept[[]sending.Outcome]
}

func (outgoingRow) TableName() string { return "outbox" }

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

type knownPersonRow struct {
	Owner    Owner  `gorm:"primaryKey;autoIncrement:false"`
	Email    string `gorm:"primaryKey"`
	Name     string
	Sent     int
	Received int
	LastAt   stamp
}

func (knownPersonRow) TableName() string { return "known_people" }

type senderRow struct {
	ID       int64
	Owner    Owner
	Email    string
	Pictures bool
}

func (senderRow) TableName() string { return "senders" }

type importRow struct {
	ID         int64
	Owner      Owner
	Person     int64
	CommandID  string
	Name       string
	Path       string
	Spooled    bool
	Quoting    int
	InboxSince stamp
	State      string
	JournalID  int64
	MadeAt     stamp
	EndedAt    maybeStamp
	Size, Done int64
	ImportAccount
	Trouble string
}

func (importRow) TableName() string { return "imports" }

type importTroubleRow struct {
	ID       int64
	Owner    Owner
	ImportID int64
	Name     string
	Subject  string
	What     string
	LetterID maybeID
	Letter   *letterRow
}

func (importTroubleRow) TableName() string { return "import_troubles" }

type blobRow struct {
	Owner  Owner  `gorm:"primaryKey;autoIncrement:false"`
	Sha    []byte `gorm:"primaryKey"`
	Size   int
	Packed []byte
	Pieces int
}

func (blobRow) TableName() string { return "blobs" }

type blobPieceRow struct {
	Owner  Owner  `gorm:"primaryKey;autoIncrement:false"`
	Sha    []byte `gorm:"primaryKey"`
	Piece  int    `gorm:"primaryKey;autoIncrement:false"`
	Packed []byte
}

func (blobPieceRow) TableName() string { return "blob_pieces" }

type preparedRow struct {
	LetterID int64 `gorm:"primaryKey;autoIncrement:false"`
	Owner    Owner
	Persons  kept[[]string]
	Sender   string
}

func (preparedRow) TableName() string { return "prepared" }

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

type tallyRow struct {
	Owner   Owner `gorm:"primaryKey;autoIncrement:false"`
	Quarter int64 `gorm:"primaryKey;autoIncrement:false"`
	Came    int
	Entered int
	Gone    int
}

func (tallyRow) TableName() string { return "tallies" }

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
