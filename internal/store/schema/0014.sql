-- The mail server of an account, where its letters are too. Its password stands in no
-- database. read_to is the last change that was looked at for what the server is to
-- be told. sign_in is where a
-- person signs in instead of with a password. holds lets the server hold what the gate holds, purges take away what the bin
-- lets go of.
CREATE TABLE remotes (
  account_id INTEGER PRIMARY KEY REFERENCES accounts(id), owner INTEGER NOT NULL REFERENCES people(id), person INTEGER NOT NULL REFERENCES people(id),
  login TEXT NOT NULL, incoming TEXT NOT NULL, outgoing TEXT NOT NULL, paused INTEGER NOT NULL DEFAULT 0, trouble TEXT NOT NULL DEFAULT '',
  keeps_sent INTEGER NOT NULL DEFAULT 0, sign_in TEXT NOT NULL DEFAULT '', holds INTEGER NOT NULL DEFAULT 0, purges INTEGER NOT NULL DEFAULT 0, made_at INTEGER NOT NULL, synced_at INTEGER, read_to INTEGER NOT NULL DEFAULT 0
) STRICT;
-- A folder there. Letters from arrivals on (a UID) are arrivals; those before were there
-- when it was first seen, and are taken in newest first. all_in tells that they are;
-- keeps are the flags that it keeps.
CREATE TABLE remote_folders (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), account_id INTEGER NOT NULL REFERENCES accounts(id),
  name TEXT NOT NULL, role TEXT NOT NULL, label TEXT NOT NULL DEFAULT '', phrase TEXT NOT NULL DEFAULT '', validity INTEGER NOT NULL DEFAULT 0,
  mod_seq INTEGER NOT NULL DEFAULT 0, arrivals INTEGER NOT NULL DEFAULT 0, total INTEGER NOT NULL DEFAULT 0, all_in INTEGER NOT NULL DEFAULT 0,
  keeps INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE UNIQUE INDEX remote_folders_name ON remote_folders (account_id, name);
-- The letters there, as both sides last agreed on them. A letter that is gone here, or
-- could not be taken, has none. One that is missing was not found in any folder when it was
-- last looked for: it may be on its way from one to another. One that is purged here waits to be
-- taken away there.
CREATE TABLE remote_letters (
  folder_id INTEGER NOT NULL REFERENCES remote_folders(id) ON DELETE CASCADE, uid INTEGER NOT NULL, owner INTEGER NOT NULL,
  letter_id INTEGER REFERENCES letters(id) ON DELETE SET NULL, flags INTEGER NOT NULL DEFAULT 0, keywords TEXT NOT NULL DEFAULT '',
  missing INTEGER NOT NULL DEFAULT 0, purged INTEGER NOT NULL DEFAULT 0, PRIMARY KEY (folder_id, uid)
) STRICT, WITHOUT ROWID;
CREATE INDEX remote_letters_letter ON remote_letters (letter_id);
CREATE INDEX remote_letters_purged ON remote_letters (folder_id) WHERE purged = 1;
-- The drafts there: which draft of here each is (its number; 0 for one that stays there
-- alone), and how it stood when both sides last agreed.
CREATE TABLE remote_drafts (
  folder_id INTEGER NOT NULL REFERENCES remote_folders(id) ON DELETE CASCADE, uid INTEGER NOT NULL, owner INTEGER NOT NULL,
  draft INTEGER NOT NULL, told_at INTEGER NOT NULL, PRIMARY KEY (folder_id, uid)
) STRICT, WITHOUT ROWID;
-- Labels whose keywords don't tell them.
CREATE TABLE remote_keywords (
  account_id INTEGER NOT NULL REFERENCES accounts(id), keyword TEXT NOT NULL, owner INTEGER NOT NULL REFERENCES people(id), label TEXT NOT NULL,
  PRIMARY KEY (account_id, keyword)
) STRICT, WITHOUT ROWID;
-- What the server is still to be told: how a conversation stands, or a letter (else 0) of
-- one's own that it is to keep.
CREATE TABLE remote_tasks (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), account_id INTEGER NOT NULL REFERENCES accounts(id),
  conversation_id INTEGER NOT NULL, letter_id INTEGER NOT NULL DEFAULT 0, tries INTEGER NOT NULL DEFAULT 0, again_at INTEGER NOT NULL DEFAULT 0, trouble TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE UNIQUE INDEX remote_tasks_once ON remote_tasks (account_id, conversation_id, letter_id);
