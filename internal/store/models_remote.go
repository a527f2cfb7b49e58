package store

import "ebbe.example/ebbe/internal/core/remote"

type remoteRow struct {
	AccountID int64 `gorm:"primaryKey;autoIncrement:false"`
	Owner     Owner
	Person    int64
	Login     string
	Incoming  kept[remote.Server]
	Outgoing  kept[remote.Server]
	Paused    bool
	Trouble   string
	KeepsSent bool
	SignIn    string
	Holds     bool
	Purges    bool
	MadeAt    stamp
	SyncedAt  maybeStamp
	ReadTo    int64
}

func (remoteRow) TableName() string { return "remotes" }

type remoteFolderRow struct {
	ID        int64
	Owner     Owner
	AccountID int64
	Name      string
	Role      remote.Role
	Label     string
	Phrase    string
	Validity  int64
	ModSeq    int64
	Arrivals  int64
	Total     int
	AllIn     bool
	Keeps     int
}

func (remoteFolderRow) TableName() string { return "remote_folders" }

type remoteLetterRow struct {
	FolderID int64 `gorm:"primaryKey;autoIncrement:false"`
	UID      int64 `gorm:"primaryKey;autoIncrement:false"`
	Owner    Owner
	LetterID maybeID
	Flags    int
	Keywords string
	Missing  bool
	Purged   bool
}

func (remoteLetterRow) TableName() string { return "remote_letters" }

type remoteDraftRow struct {
	FolderID int64 `gorm:"primaryKey;autoIncrement:false"`
	UID      int64 `gorm:"primaryKey;autoIncrement:false"`
	Owner    Owner
	Draft    int64
	ToldAt   stamp `gorm:"autoUpdateTime:false"`
}

func (remoteDraftRow) TableName() string { return "remote_drafts" }

type remoteKeywordRow struct {
	AccountID int64  `gorm:"primaryKey;autoIncrement:false"`
	Keyword   string `gorm:"primaryKey"`
	Owner     Owner
	Label     string
}

func (remoteKeywordRow) TableName() string { return "remote_keywords" }

type remoteTaskRow struct {
	ID             int64
	Owner          Owner
	AccountID      int64
	ConversationID int64
	LetterID       int64
	Tries          int
	AgainAt        stamp
	Trouble        string
}

func (remoteTaskRow) TableName() string { return "remote_tasks" }
