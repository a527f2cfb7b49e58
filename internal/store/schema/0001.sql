-- Every row belongs to a person (owner). Times are milliseconds since 1970 UTC.
-- Values of JSON columns are written and read by the core's types.

CREATE TABLE people (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL, sign_in TEXT NOT NULL UNIQUE, password TEXT NOT NULL DEFAULT '',
  zone TEXT NOT NULL, week_start INTEGER NOT NULL DEFAULT 1, day_turn INTEGER NOT NULL DEFAULT 240,
  day_start INTEGER NOT NULL DEFAULT 510, day_end INTEGER NOT NULL DEFAULT 1050, workdays INTEGER NOT NULL DEFAULT 62,
  made_at INTEGER NOT NULL
) STRICT;

CREATE TABLE accounts (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), address TEXT NOT NULL, name TEXT NOT NULL,
  label TEXT NOT NULL DEFAULT '', signature TEXT NOT NULL DEFAULT '', position INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE TABLE own_addresses (
  owner INTEGER NOT NULL REFERENCES people(id), address TEXT NOT NULL, account_id INTEGER NOT NULL REFERENCES accounts(id),
  PRIMARY KEY (address, owner)
) STRICT, WITHOUT ROWID;

-- Original letters, zstd-packed, each once.
CREATE TABLE blobs (
  owner INTEGER NOT NULL, sha BLOB NOT NULL, size INTEGER NOT NULL, packed BLOB NOT NULL, PRIMARY KEY (owner, sha)
) STRICT;

CREATE TABLE conversations (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id),
  place TEXT NOT NULL DEFAULT '', place_since INTEGER NOT NULL DEFAULT 0,
  queue_at INTEGER NOT NULL DEFAULT 0, back_rank INTEGER NOT NULL DEFAULT 0, back TEXT,
  put_offs INTEGER NOT NULL DEFAULT 0, decided INTEGER NOT NULL DEFAULT 0, seen INTEGER NOT NULL DEFAULT 0,
  star INTEGER NOT NULL DEFAULT 0, priority TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '', working_title TEXT NOT NULL DEFAULT '',
  -- Read off its letters, for the rows of lists:
  subject TEXT NOT NULL DEFAULT '', bare_subject TEXT NOT NULL DEFAULT '', from_name TEXT NOT NULL DEFAULT '', from_email TEXT NOT NULL DEFAULT '',
  ask TEXT NOT NULL DEFAULT '', asks INTEGER NOT NULL DEFAULT 0, letters INTEGER NOT NULL DEFAULT 0, attachments INTEGER NOT NULL DEFAULT 0,
  last_letter INTEGER NOT NULL DEFAULT 0, last_at INTEGER NOT NULL DEFAULT 0, round_at INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX conversations_queue ON conversations (owner, place, back_rank, queue_at, id);
CREATE INDEX conversations_last ON conversations (owner, place, last_at, id);
CREATE INDEX conversations_since ON conversations (owner, place, place_since, id);
CREATE INDEX conversations_subject ON conversations (owner, bare_subject, last_at);
CREATE TABLE conversation_redirects (
  owner INTEGER NOT NULL, from_id INTEGER NOT NULL, to_id INTEGER NOT NULL, PRIMARY KEY (from_id)
) STRICT, WITHOUT ROWID;
CREATE TABLE conversation_accounts (
  conversation_id INTEGER NOT NULL REFERENCES conversations(id) ON DELETE CASCADE, account_id INTEGER NOT NULL, owner INTEGER NOT NULL,
  PRIMARY KEY (conversation_id, account_id)
) STRICT, WITHOUT ROWID;
CREATE TABLE conversation_persons (
  conversation_id INTEGER NOT NULL REFERENCES conversations(id) ON DELETE CASCADE, person TEXT NOT NULL, owner INTEGER NOT NULL,
  PRIMARY KEY (conversation_id, person)
) STRICT, WITHOUT ROWID;
CREATE TABLE conversation_labels (
  owner INTEGER NOT NULL, label TEXT NOT NULL, conversation_id INTEGER NOT NULL REFERENCES conversations(id) ON DELETE CASCADE,
  PRIMARY KEY (owner, label, conversation_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX conversation_labels_of ON conversation_labels (conversation_id);

CREATE TABLE letters (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), conversation_id INTEGER REFERENCES conversations(id),
  identity TEXT NOT NULL, message_id TEXT NOT NULL, own INTEGER NOT NULL DEFAULT 0, automatic TEXT NOT NULL DEFAULT '',
  from_name TEXT NOT NULL, from_email TEXT NOT NULL, recipients TEXT NOT NULL, subject TEXT NOT NULL,
  date INTEGER NOT NULL, received_at INTEGER NOT NULL, in_at INTEGER,
  ask TEXT NOT NULL DEFAULT '', asks INTEGER NOT NULL DEFAULT 0, parts TEXT NOT NULL DEFAULT '[]', html INTEGER NOT NULL DEFAULT 0, attachments INTEGER NOT NULL DEFAULT 0,
  sha BLOB NOT NULL, damage TEXT NOT NULL DEFAULT '', twin INTEGER NOT NULL DEFAULT 0, row_key INTEGER NOT NULL
) STRICT;
CREATE UNIQUE INDEX letters_identity ON letters (owner, identity);
CREATE INDEX letters_conversation ON letters (conversation_id, received_at, id);
CREATE UNIQUE INDEX letters_row_key ON letters (row_key);
CREATE INDEX letters_own ON letters (owner, date, id) WHERE own = 1;
CREATE INDEX letters_message ON letters (owner, message_id);
-- A letter's own Message-ID and all that it refers to.
CREATE TABLE letter_ids (
  owner INTEGER NOT NULL, ref TEXT NOT NULL, letter_id INTEGER NOT NULL REFERENCES letters(id) ON DELETE CASCADE, PRIMARY KEY (owner, ref, letter_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX letter_ids_letter ON letter_ids (letter_id);
CREATE TABLE arrivals (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, letter_id INTEGER NOT NULL REFERENCES letters(id) ON DELETE CASCADE,
  account_id INTEGER, source TEXT NOT NULL, received_at INTEGER NOT NULL, state TEXT NOT NULL, in_at INTEGER, sha BLOB NOT NULL
) STRICT;
CREATE UNIQUE INDEX arrivals_once ON arrivals (letter_id, source, sha);
CREATE INDEX arrivals_held ON arrivals (owner, received_at) WHERE state = 'held';
CREATE INDEX arrivals_source ON arrivals (owner, source);
CREATE VIRTUAL TABLE letters_text USING fts5(
  subject, sender, recipients, body, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2"
);

CREATE TABLE place_history (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, conversation_id INTEGER NOT NULL, was TEXT NOT NULL, now TEXT NOT NULL,
  at INTEGER NOT NULL, journal_id INTEGER NOT NULL
) STRICT;
CREATE INDEX place_history_at ON place_history (owner, at);
CREATE INDEX place_history_of ON place_history (conversation_id, at);

CREATE TABLE returns (
  conversation_id INTEGER PRIMARY KEY REFERENCES conversations(id) ON DELETE CASCADE, owner INTEGER NOT NULL,
  due INTEGER, precise INTEGER NOT NULL DEFAULT 0, waits INTEGER NOT NULL DEFAULT 0, value TEXT NOT NULL
) STRICT;
CREATE INDEX returns_due ON returns (due) WHERE waits = 0 AND due IS NOT NULL;
CREATE INDEX returns_owner ON returns (owner, due);

CREATE TABLE followups (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, alive INTEGER NOT NULL DEFAULT 0, title TEXT NOT NULL, notes TEXT NOT NULL DEFAULT '',
  start TEXT, due TEXT, due_at INTEGER, priority TEXT NOT NULL DEFAULT 'normal', status TEXT NOT NULL DEFAULT 'open',
  stage TEXT NOT NULL DEFAULT '', assignee TEXT NOT NULL DEFAULT '', project TEXT NOT NULL DEFAULT '', context TEXT NOT NULL DEFAULT '',
  estimate INTEGER NOT NULL DEFAULT 0, flag INTEGER NOT NULL DEFAULT 0, made_at INTEGER NOT NULL, done_at INTEGER
) STRICT;
CREATE INDEX followups_open ON followups (owner, alive, status, due_at);
CREATE TABLE followup_letters (
  owner INTEGER NOT NULL, followup_id INTEGER NOT NULL REFERENCES followups(id), letter_id INTEGER NOT NULL,
  -- What stays when the letter is purged: subject, sender, date and ask.
  subject TEXT NOT NULL, sender TEXT NOT NULL, date INTEGER NOT NULL, ask TEXT NOT NULL DEFAULT '', purged INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (followup_id, letter_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX followup_letters_of ON followup_letters (letter_id);
CREATE TABLE reminders (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, followup_id INTEGER NOT NULL REFERENCES followups(id), alive INTEGER NOT NULL DEFAULT 0,
  moment TEXT NOT NULL, at INTEGER, state TEXT NOT NULL DEFAULT 'set'
) STRICT;
CREATE INDEX reminders_due ON reminders (at) WHERE alive = 1 AND state = 'set';
CREATE INDEX reminders_of ON reminders (followup_id);

CREATE TABLE expectations (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, alive INTEGER NOT NULL DEFAULT 0, conversation_id INTEGER NOT NULL,
  persons TEXT NOT NULL, all_of INTEGER NOT NULL DEFAULT 0, answered TEXT NOT NULL DEFAULT '[]', start_id TEXT NOT NULL DEFAULT '',
  since INTEGER NOT NULL, until TEXT, until_at INTEGER, state TEXT NOT NULL DEFAULT 'open', late INTEGER NOT NULL DEFAULT 0,
  met_by INTEGER, offered INTEGER, away TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX expectations_due ON expectations (until_at) WHERE alive = 1 AND state = 'open' AND late = 0;
CREATE INDEX expectations_open ON expectations (owner, state, until_at) WHERE alive = 1;
CREATE INDEX expectations_of ON expectations (conversation_id);
CREATE INDEX expectations_start ON expectations (owner, start_id);

CREATE TABLE drafts (
  id TEXT NOT NULL, owner INTEGER NOT NULL, alive INTEGER NOT NULL DEFAULT 1, conversation_id INTEGER NOT NULL DEFAULT 0,
  kind TEXT NOT NULL, value TEXT NOT NULL, updated_at INTEGER NOT NULL, number INTEGER NOT NULL, PRIMARY KEY (owner, id)
) STRICT;
CREATE UNIQUE INDEX drafts_number ON drafts (number);
CREATE TABLE outbox (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, account_id INTEGER NOT NULL, conversation_id INTEGER NOT NULL, draft TEXT NOT NULL DEFAULT '',
  message_id TEXT NOT NULL, sender TEXT NOT NULL, recipients TEXT NOT NULL, subject TEXT NOT NULL, sha BLOB NOT NULL, state TEXT NOT NULL DEFAULT 'none',
  send_at INTEGER NOT NULL, tries INTEGER NOT NULL DEFAULT 0, trouble TEXT NOT NULL DEFAULT '', made_at INTEGER NOT NULL
) STRICT;
CREATE INDEX outbox_due ON outbox (send_at) WHERE state IN ('waiting', 'sending');
CREATE INDEX outbox_open ON outbox (owner, state);

CREATE TABLE holds (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, alive INTEGER NOT NULL DEFAULT 0, from_at INTEGER NOT NULL, until TEXT, until_at INTEGER,
  ended_at INTEGER
) STRICT;
CREATE INDEX holds_open ON holds (owner) WHERE alive = 1 AND ended_at IS NULL;

CREATE TABLE journal (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, command_id TEXT NOT NULL, kind TEXT NOT NULL, actor TEXT NOT NULL, cause TEXT NOT NULL DEFAULT '',
  title TEXT NOT NULL, at INTEGER NOT NULL, recorded_at INTEGER NOT NULL, undoable INTEGER NOT NULL DEFAULT 1, undo_of INTEGER, undone_by INTEGER,
  result TEXT NOT NULL DEFAULT 'null'
) STRICT;
CREATE UNIQUE INDEX journal_command ON journal (owner, command_id);
CREATE INDEX journal_undo ON journal (owner, id) WHERE actor = 'person' AND undoable = 1 AND undo_of IS NULL AND undone_by IS NULL;
CREATE INDEX journal_at ON journal (owner, at);
CREATE TABLE changes (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, journal_id INTEGER NOT NULL REFERENCES journal(id), object TEXT NOT NULL, object_id INTEGER NOT NULL,
  field TEXT NOT NULL, was TEXT NOT NULL, now TEXT NOT NULL, version_before INTEGER NOT NULL, version_after INTEGER NOT NULL
) STRICT;
CREATE INDEX changes_journal ON changes (journal_id);
CREATE TABLE field_versions (
  object TEXT NOT NULL, object_id INTEGER NOT NULL, field TEXT NOT NULL, owner INTEGER NOT NULL, version INTEGER NOT NULL,
  PRIMARY KEY (object, object_id, field)
) STRICT, WITHOUT ROWID;

-- People the owner has written with, for completing addresses.
CREATE TABLE known_people (
  owner INTEGER NOT NULL, email TEXT NOT NULL, name TEXT NOT NULL, sent INTEGER NOT NULL DEFAULT 0, received INTEGER NOT NULL DEFAULT 0,
  last_at INTEGER NOT NULL, PRIMARY KEY (owner, email)
) STRICT, WITHOUT ROWID;

-- The stand-in post office: letters under way, and the demo's clock.
CREATE TABLE post_bag (
  id INTEGER PRIMARY KEY, due INTEGER NOT NULL, sender TEXT NOT NULL, recipients TEXT NOT NULL, data BLOB NOT NULL, taken INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX post_bag_due ON post_bag (due) WHERE taken = 0;
CREATE TABLE facts (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;

CREATE TABLE sessions (token TEXT PRIMARY KEY, data BLOB NOT NULL, expires INTEGER NOT NULL) STRICT, WITHOUT ROWID;
