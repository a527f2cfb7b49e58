-- Texts that are used again and again, with fields to be filled in.
CREATE TABLE templates (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  name TEXT NOT NULL, subject TEXT NOT NULL DEFAULT '', text TEXT NOT NULL DEFAULT '', markdown INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX templates_of ON templates (owner, alive);
-- People who are written to together.
CREATE TABLE receiver_groups (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  name TEXT NOT NULL, members TEXT NOT NULL DEFAULT '[]'
) STRICT;
CREATE INDEX receiver_groups_of ON receiver_groups (owner, alive);
-- Files that stay: added to a conversation, or going along with a template. What is in them
-- is an attachment.
CREATE TABLE kept_files (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  attachment TEXT NOT NULL, conversation_id INTEGER NOT NULL DEFAULT 0, template_id INTEGER NOT NULL DEFAULT 0, added_at INTEGER NOT NULL
) STRICT;
CREATE INDEX kept_files_conversation ON kept_files (conversation_id) WHERE conversation_id <> 0;
CREATE INDEX kept_files_template ON kept_files (template_id) WHERE template_id <> 0;
CREATE INDEX kept_files_attachment ON kept_files (owner, attachment);
-- How many letters have a word.
CREATE VIRTUAL TABLE letters_text_words USING fts5vocab(letters_text, row);
-- Notes and working titles, to be found: a row by its conversation, with the columns of letters_text.
CREATE VIRTUAL TABLE notes_text USING fts5(
  subject, sender, recipients, body, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2"
);
INSERT INTO notes_text (rowid, subject, sender, recipients, body)
  SELECT id, working_title, '', '', note FROM conversations WHERE note <> '' OR working_title <> '';
-- Further signatures of an account, addresses to send as beside its own, and the absence note.
ALTER TABLE accounts ADD COLUMN signatures TEXT NOT NULL DEFAULT '[]';
ALTER TABLE accounts ADD COLUMN send_as TEXT NOT NULL DEFAULT '[]';
ALTER TABLE accounts ADD COLUMN away TEXT;
-- Whether the mail service is asked to tell what becomes of a letter (RFC 3461).
ALTER TABLE outbox ADD COLUMN notify INTEGER NOT NULL DEFAULT 0;
-- How a letter recurs: when it has left, the next one is made.
ALTER TABLE outbox ADD COLUMN every TEXT;
