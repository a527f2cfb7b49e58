-- Rules: what is done by itself with letters that meet conditions.
CREATE TABLE rules (
	id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people (id), alive INTEGER NOT NULL DEFAULT 0,
	name TEXT NOT NULL DEFAULT '', position INTEGER NOT NULL DEFAULT 0, conditions TEXT NOT NULL DEFAULT '{}', steps TEXT NOT NULL DEFAULT '[]',
	stop INTEGER NOT NULL DEFAULT 0, off INTEGER NOT NULL DEFAULT 0, people INTEGER NOT NULL DEFAULT 0, until TEXT, said TEXT NOT NULL DEFAULT '',
	made_at INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX rules_of ON rules (owner, alive);
-- What each rule did.
CREATE INDEX journal_rules ON journal (owner, cause, id) WHERE actor = 'rule';
-- Rules that were proposed and answered.
ALTER TABLE people ADD COLUMN proposed TEXT NOT NULL DEFAULT '';
-- A backlog that is gone through over days.
ALTER TABLE people ADD COLUMN backlog TEXT NOT NULL DEFAULT '';
