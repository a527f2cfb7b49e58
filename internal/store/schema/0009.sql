-- What a command was asked to do: the same id for something else is refused.
-- Ids of persons, of the clock and of arriving letters don't meet: an id is
-- one actor's.
ALTER TABLE journal ADD COLUMN asked TEXT NOT NULL DEFAULT '';
DROP INDEX journal_command;
CREATE UNIQUE INDEX journal_command ON journal (command_id, actor, owner);

-- Due events that failed, out of the way of the others: why, and when each is
-- tried again. owner is 0 for what is nobody's.
CREATE TABLE stuck (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, kind TEXT NOT NULL, object_id INTEGER NOT NULL, title TEXT NOT NULL DEFAULT '', reason TEXT NOT NULL,
  tries INTEGER NOT NULL, since INTEGER NOT NULL, again_at INTEGER NOT NULL
) STRICT;
CREATE UNIQUE INDEX stuck_event ON stuck (kind, object_id);
CREATE INDEX stuck_again ON stuck (again_at);
CREATE INDEX stuck_owner ON stuck (owner, since);

-- What became of a letter for each of its recipients (JSON).
ALTER TABLE outbox ADD COLUMN outcomes TEXT NOT NULL DEFAULT '[]';
CREATE INDEX outbox_message ON outbox (owner, message_id);

-- The envelope's sender (RFC 5321, reverse-path) of an arrival: '' for an empty
-- one, NULL where it is not known.
ALTER TABLE arrivals ADD COLUMN return_path TEXT;

-- The round that brought a letter, 0 where mail flowed. Which letter speaks for
-- a conversation and which gives it its subject are read off by the core
-- (thread.Row).
ALTER TABLE letters ADD COLUMN round_at INTEGER NOT NULL DEFAULT 0;
UPDATE letters SET round_at = in_at WHERE in_at IN (SELECT at FROM journal j WHERE j.owner = letters.owner AND j.kind IN ('delivery', 'let-in', 'let-in-early'));
ALTER TABLE conversations ADD COLUMN speaker INTEGER NOT NULL DEFAULT 0;
ALTER TABLE conversations ADD COLUMN opener INTEGER NOT NULL DEFAULT 0;

-- Of a large original the first piece stands in blobs, the others here: SQLite
-- holds a value several times over while it is written.
ALTER TABLE blobs ADD COLUMN pieces INTEGER NOT NULL DEFAULT 0;
CREATE TABLE blob_pieces (
  owner INTEGER NOT NULL, sha BLOB NOT NULL, piece INTEGER NOT NULL, packed BLOB NOT NULL, PRIMARY KEY (owner, sha, piece),
  FOREIGN KEY (owner, sha) REFERENCES blobs (owner, sha) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

-- The same bytes at two accounts are two arrivals.
DROP INDEX arrivals_once;
CREATE UNIQUE INDEX arrivals_once ON arrivals (letter_id, source, sha, coalesce(account_id, 0));

-- Whether a conversation stays in the archive when letters come; and what hangs
-- on a conversation.
ALTER TABLE conversations ADD COLUMN quiet INTEGER NOT NULL DEFAULT 0;
CREATE INDEX outbox_conversation ON outbox (conversation_id);
CREATE INDEX drafts_conversation ON drafts (conversation_id) WHERE conversation_id <> 0;
CREATE INDEX appointments_conversation ON appointments (conversation_id) WHERE conversation_id <> 0;

-- Letters that follow-ups of a file belong to and that are not here yet: when
-- one comes it is linked.
CREATE TABLE waiting_links (
  owner INTEGER NOT NULL REFERENCES people(id), message_id TEXT NOT NULL, followup_id INTEGER NOT NULL REFERENCES followups(id), PRIMARY KEY (owner, message_id, followup_id)
) STRICT, WITHOUT ROWID;

-- Appointments that recur. Each start within reach is an appointment of its own
-- (recurrence_at is when its rules put it, 0 for one that stands alone); the
-- series (value: JSON) makes more when extend_at comes.
CREATE TABLE series (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0, uid TEXT NOT NULL, value TEXT NOT NULL,
  kept_until INTEGER NOT NULL, extend_at INTEGER
) STRICT;
CREATE INDEX series_extend ON series (extend_at) WHERE alive = 1 AND extend_at IS NOT NULL;
CREATE INDEX series_uid ON series (owner, uid);
ALTER TABLE appointments ADD COLUMN recurrence_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE appointments ADD COLUMN series_id INTEGER NOT NULL DEFAULT 0;
