-- Who acted, beside whose inbox it was; 0 for what ran by itself.
ALTER TABLE journal ADD COLUMN person INTEGER NOT NULL DEFAULT 0;
UPDATE journal SET person = owner WHERE actor IN ('person', 'import');
DROP INDEX journal_undo;
CREATE INDEX journal_undo ON journal (owner, person, id) WHERE actor = 'person' AND undoable = 1 AND undo_of IS NULL AND undone_by IS NULL;
ALTER TABLE imports ADD COLUMN person INTEGER NOT NULL DEFAULT 0;
UPDATE imports SET person = owner;
-- What of a conversation is one person's: their star, and the last letter that
-- they have looked at.
CREATE TABLE personal_marks (
  conversation_id INTEGER NOT NULL REFERENCES conversations(id) ON DELETE CASCADE, person INTEGER NOT NULL REFERENCES people(id),
  owner INTEGER NOT NULL, star INTEGER NOT NULL DEFAULT 0, seen INTEGER NOT NULL DEFAULT 0, PRIMARY KEY (conversation_id, person)
) STRICT, WITHOUT ROWID;
CREATE INDEX personal_stars ON personal_marks (person, conversation_id) WHERE star = 1;
INSERT INTO personal_marks (conversation_id, person, owner, star, seen) SELECT id, owner, owner, star, seen FROM conversations WHERE star <> 0 OR seen <> 0;
ALTER TABLE conversations DROP COLUMN star;
ALTER TABLE conversations DROP COLUMN seen;
-- Versions of what is one person's are counted apart.
ALTER TABLE changes ADD COLUMN person INTEGER NOT NULL DEFAULT 0;
UPDATE changes SET person = owner WHERE object = 'conversation' AND field = 'star';
CREATE TABLE versions (
  object TEXT NOT NULL, object_id INTEGER NOT NULL, field TEXT NOT NULL, person INTEGER NOT NULL DEFAULT 0, owner INTEGER NOT NULL, version INTEGER NOT NULL,
  PRIMARY KEY (object, object_id, field, person)
) STRICT, WITHOUT ROWID;
INSERT INTO versions (object, object_id, field, person, owner, version)
  SELECT object, object_id, field, CASE WHEN object = 'conversation' AND field = 'star' THEN owner ELSE 0 END, owner, version FROM field_versions;
DROP TABLE field_versions;
ALTER TABLE versions RENAME TO field_versions;
