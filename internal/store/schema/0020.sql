-- What became of letters: facts and counts from which is learned what matters, never what a
-- letter says. A lesson goes with the step that taught it: undone, it counts no longer. It
-- stays when its letter is purged in time.
CREATE TABLE lessons (
	id INTEGER PRIMARY KEY, owner INTEGER NOT NULL, journal_id INTEGER NOT NULL REFERENCES journal (id), letter_id INTEGER NOT NULL, at INTEGER NOT NULL,
	sender TEXT NOT NULL, list TEXT NOT NULL, facts INTEGER NOT NULL, outcome TEXT NOT NULL, forgotten_by INTEGER REFERENCES journal (id)
) STRICT;
CREATE UNIQUE INDEX lessons_step ON lessons (journal_id, letter_id);
CREATE INDEX lessons_owner ON lessons (owner, sender);
CREATE INDEX lessons_letter ON lessons (letter_id);
CREATE INDEX lessons_forgotten ON lessons (forgotten_by) WHERE forgotten_by IS NOT NULL;
-- By which day something in a letter is to be done, as 2006-01-02: what is sorted out comes up for it.
ALTER TABLE letters ADD COLUMN due TEXT NOT NULL DEFAULT '';
