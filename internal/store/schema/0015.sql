-- Files that go along with letters that are being written, by the names that the page gave
-- them. One is whole once as much of it has come as it is long.
CREATE TABLE attachments (
  id TEXT NOT NULL, owner INTEGER NOT NULL REFERENCES people(id), draft TEXT NOT NULL, name TEXT NOT NULL, content_type TEXT NOT NULL,
  size INTEGER NOT NULL, came INTEGER NOT NULL DEFAULT 0, made_at INTEGER NOT NULL, PRIMARY KEY (owner, id)
) STRICT;
CREATE INDEX attachments_draft ON attachments (owner, draft);
-- What has come of them: from a byte on.
CREATE TABLE attachment_pieces (
  owner INTEGER NOT NULL, attachment TEXT NOT NULL, first INTEGER NOT NULL, content BLOB NOT NULL, PRIMARY KEY (owner, attachment, first)
) STRICT;
-- Letters are written as Markdown, or plain; and how large one may be, in bytes as it is sent.
ALTER TABLE accounts ADD COLUMN markdown INTEGER NOT NULL DEFAULT 0;
ALTER TABLE accounts ADD COLUMN size_limit INTEGER NOT NULL DEFAULT 26214400;
-- A letter that leaves at a time of its own, rather than as soon as it may.
ALTER TABLE outbox ADD COLUMN later INTEGER NOT NULL DEFAULT 0;
