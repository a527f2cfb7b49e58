-- The account of a day: which letters came (and were not there before), also of those that were purged;
-- searches that are kept, how labels look, and the text of files.
ALTER TABLE letters ADD COLUMN quietly INTEGER NOT NULL DEFAULT 0;
UPDATE letters SET quietly = 1 WHERE id IN (SELECT letter_id FROM arrivals WHERE source LIKE 'import:%' OR source = 'made-up');
ALTER TABLE letters ADD COLUMN files_read TEXT;
CREATE INDEX letters_files ON letters (id) WHERE attachments > 0 AND files_read IS NULL AND in_at IS NOT NULL;
CREATE INDEX letters_in ON letters (owner, in_at) WHERE own = 0 AND quietly = 0;
CREATE INDEX letters_written ON letters (owner, received_at) WHERE own = 1 AND quietly = 0;
CREATE TABLE purged (
  owner INTEGER NOT NULL REFERENCES people(id), quarter INTEGER NOT NULL, letters INTEGER NOT NULL,
  PRIMARY KEY (owner, quarter)
) STRICT, WITHOUT ROWID;
CREATE TABLE kept_searches (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  name TEXT NOT NULL DEFAULT '', query TEXT NOT NULL DEFAULT '', within TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE TABLE labels (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  name TEXT NOT NULL DEFAULT '', colour TEXT NOT NULL DEFAULT '', shape TEXT NOT NULL DEFAULT ''
) STRICT;
