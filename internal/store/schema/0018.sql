-- Of what kind a letter is, and what of it decides that. What was let in before is sorted
-- by nothing, and so stays where it is.
ALTER TABLE letters ADD COLUMN list_id TEXT NOT NULL DEFAULT '';
ALTER TABLE letters ADD COLUMN traits INTEGER NOT NULL DEFAULT 0;
-- How many words its new text has.
ALTER TABLE letters ADD COLUMN words INTEGER NOT NULL DEFAULT 0;
ALTER TABLE letters ADD COLUMN kind TEXT NOT NULL DEFAULT '';
ALTER TABLE letters ADD COLUMN kind_why TEXT NOT NULL DEFAULT '';
ALTER TABLE letters ADD COLUMN sorted_out INTEGER NOT NULL DEFAULT 0;
-- The kind of a conversation is that of its newest letter from somebody else; unsorted are
-- how many of its letters are not sorted out.
ALTER TABLE conversations ADD COLUMN kind TEXT NOT NULL DEFAULT '';
ALTER TABLE conversations ADD COLUMN unsorted INTEGER NOT NULL DEFAULT 0;
CREATE INDEX conversations_shallows ON conversations (owner, kind, last_at, id) WHERE place = 'shallows';
-- The kinds that are sorted out (JSON); '' for the usual ones.
ALTER TABLE people ADD COLUMN sorted_out TEXT NOT NULL DEFAULT '';
-- What a move has taught about a sender, a list or a domain.
CREATE TABLE corrections (
	id INTEGER PRIMARY KEY,
	owner INTEGER NOT NULL,
	alive INTEGER NOT NULL DEFAULT 0,
	scope TEXT NOT NULL,
	value TEXT NOT NULL,
	kind TEXT NOT NULL,
	made_at INTEGER NOT NULL
);
CREATE INDEX corrections_alive ON corrections (owner, scope, value) WHERE alive;
