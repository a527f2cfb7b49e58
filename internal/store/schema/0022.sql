-- With what a decision was taken: the label, the phrase, to whom. What was done before is learned from anew.
ALTER TABLE lessons ADD COLUMN particulars TEXT NOT NULL DEFAULT '';
DELETE FROM facts WHERE name = 'learned until this step of the journal';
-- Sittings: timed sessions of deciding, each of the heap that it was begun with.
CREATE TABLE sittings (
	id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people (id), person INTEGER NOT NULL REFERENCES people (id), alive INTEGER NOT NULL DEFAULT 0,
	began_at INTEGER NOT NULL, until_at INTEGER, ended_at INTEGER, heap TEXT NOT NULL DEFAULT '{}', letters TEXT NOT NULL DEFAULT '[]', skipped TEXT NOT NULL DEFAULT '[]'
) STRICT;
CREATE INDEX sittings_person ON sittings (owner, person, began_at);
