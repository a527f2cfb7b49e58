-- The id of what was taken away is never given again: pages, the Journal and versions of values may still name it.
-- A table with AUTOINCREMENT is stored as one without; SQLite only keeps its highest id beside it.
CREATE TABLE never_again (id INTEGER PRIMARY KEY AUTOINCREMENT) STRICT;
DROP TABLE never_again;
PRAGMA writable_schema = ON;
UPDATE sqlite_schema SET sql = replace(sql, 'id INTEGER PRIMARY KEY,', 'id INTEGER PRIMARY KEY AUTOINCREMENT,') WHERE type = 'table' AND name IN
  ('appointments', 'changes', 'contacts', 'conversations', 'corrections', 'expectations', 'kept_files', 'let_through', 'letters', 'outbox', 'savings', 'senders');
PRAGMA writable_schema = RESET;
-- Where an id was given twice, versions stood with whom the first belonged to.
UPDATE field_versions SET owner = c.owner FROM changes c WHERE c.id = version AND c.owner <> field_versions.owner
  AND c.object = field_versions.object AND c.object_id = field_versions.object_id AND c.field = field_versions.field AND c.person = field_versions.person;
UPDATE field_versions SET version = 0 WHERE version <> 0
  AND (object, object_id, field, person, version) NOT IN (SELECT object, object_id, field, person, version_after FROM changes);
