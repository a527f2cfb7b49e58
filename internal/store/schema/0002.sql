-- Accounts get a colour with a shape, and can be laid aside.
ALTER TABLE accounts ADD COLUMN colour TEXT NOT NULL DEFAULT 'tide';
ALTER TABLE accounts ADD COLUMN shape TEXT NOT NULL DEFAULT 'circle';
ALTER TABLE accounts ADD COLUMN alive INTEGER NOT NULL DEFAULT 1;

-- What a report says of a letter of mine (JSON), and how a wish to be told
-- that a letter was read stands: '', 'asked', 'sent' or 'declined'.
ALTER TABLE letters ADD COLUMN report TEXT;
ALTER TABLE letters ADD COLUMN receipt TEXT NOT NULL DEFAULT '';
-- By which subject a letter joins others, and whether it may join by it.
ALTER TABLE letters ADD COLUMN bare_subject TEXT NOT NULL DEFAULT '';
ALTER TABLE letters ADD COLUMN joins INTEGER NOT NULL DEFAULT 0;
CREATE INDEX letters_subject ON letters (owner, bare_subject, date);
DROP INDEX conversations_subject;

-- The conversation from which this one was split by hand.
ALTER TABLE conversations ADD COLUMN apart INTEGER NOT NULL DEFAULT 0;

-- The date that an out-of-office note names, as a phrase.
ALTER TABLE expectations ADD COLUMN away_until TEXT NOT NULL DEFAULT '';

-- What the owner has settled about somebody who writes.
CREATE TABLE senders (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, email TEXT NOT NULL, pictures INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE UNIQUE INDEX senders_email ON senders (owner, email);

CREATE TABLE imports (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), command_id TEXT NOT NULL, name TEXT NOT NULL, path TEXT NOT NULL, spooled INTEGER NOT NULL,
  quoting INTEGER NOT NULL DEFAULT 0, inbox_since INTEGER NOT NULL DEFAULT 0, state TEXT NOT NULL, journal_id INTEGER NOT NULL DEFAULT 0,
  made_at INTEGER NOT NULL, ended_at INTEGER, size INTEGER NOT NULL DEFAULT 0, done INTEGER NOT NULL DEFAULT 0,
  items INTEGER NOT NULL DEFAULT 0, added INTEGER NOT NULL DEFAULT 0, known INTEGER NOT NULL DEFAULT 0, passed INTEGER NOT NULL DEFAULT 0,
  damaged INTEGER NOT NULL DEFAULT 0, trouble TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX imports_owner ON imports (owner, id);
CREATE UNIQUE INDEX imports_command ON imports (owner, command_id);
CREATE INDEX imports_running ON imports (state) WHERE state IN ('filling', 'running');
-- Letters of an import that were damaged (kept) or left out.
CREATE TABLE import_troubles (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, import_id INTEGER NOT NULL REFERENCES imports(id), name TEXT NOT NULL, subject TEXT NOT NULL DEFAULT '',
  what TEXT NOT NULL, letter_id INTEGER
) STRICT;
CREATE INDEX import_troubles_of ON import_troubles (import_id, id);
