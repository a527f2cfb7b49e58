package store

import (
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/sorting"
)

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
	Kind         sorting.Kind
	Unsorted     int
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
	ListID         string
	Traits         sorting.Traits
	Kind           sorting.Kind
	KindWhy        string
	SortedOut      bool
	SortedIn       maybeID
	Words          int
	Due            string
	Junk           string
	Quietly        bool
	FilesRead      maybeKept[[]FileUnread]
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

type correctionRow struct {
	Correction
	Owner Owner
	Alive bool
}

func (correctionRow) TableName() string { return "corrections" }

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

type attachmentRow struct {
	ID          string `gorm:"primaryKey"`
	Owner       Owner  `gorm:"primaryKey;autoIncrement:false"`
	Draft       string
	Name        string
	ContentType string
	Size        int64
	Came        int64
	MadeAt      stamp
}

func (attachmentRow) TableName() string { return "attachments" }

type keptFileRow struct {
	ID             int64
	Owner          Owner
	Alive          bool
	Attachment     string
	ConversationID int64
	TemplateID     int64
	AddedAt        stamp
}

func (keptFileRow) TableName() string { return "kept_files" }

type attachmentPieceRow struct {
	Owner      Owner  `gorm:"primaryKey;autoIncrement:false"`
	Attachment string `gorm:"primaryKey"`
	First      int64  `gorm:"primaryKey;autoIncrement:false"`
	Content    []byte
}

func (attachmentPieceRow) TableName() string { return "attachment_pieces" }

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
	Later          bool
	Notify         bool
	Every          maybeKept[meeting.Series]
}

func (outgoingRow) TableName() string { return "outbox" }

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

type tallyRow struct {
	Owner   Owner `gorm:"primaryKey;autoIncrement:false"`
	Quarter int64 `gorm:"primaryKey;autoIncrement:false"`
	Came    int
	Entered int
	Gone    int
}

func (tallyRow) TableName() string { return "tallies" }

type purgedRow struct {
	Owner   Owner `gorm:"primaryKey;autoIncrement:false"`
	Quarter int64 `gorm:"primaryKey;autoIncrement:false"`
	Letters int
}

func (purgedRow) TableName() string { return "purged" }

type erasedRow struct {
	Owner    Owner  `gorm:"primaryKey;autoIncrement:false"`
	Identity string `gorm:"primaryKey"`
}

func (erasedRow) TableName() string { return "erased" }

type tideRow struct {
	Owner  Owner `gorm:"primaryKey;autoIncrement:false"`
	Minute int64 `gorm:"primaryKey;autoIncrement:false"`
	LastAt stamp
	Sum    int
	Before int
	Top    int
	Low    int
	LowAt  stamp
}

func (tideRow) TableName() string { return "tides" }

type placeCountRow struct {
	Owner Owner        `gorm:"primaryKey;autoIncrement:false"`
	Place decide.Place `gorm:"primaryKey"`
	N     int
}

func (placeCountRow) TableName() string { return "place_counts" }
