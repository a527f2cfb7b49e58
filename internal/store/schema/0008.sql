-- A letter that names its owner.
ALTER TABLE letters ADD COLUMN mentions INTEGER NOT NULL DEFAULT 0;
CREATE INDEX letters_mentions ON letters (owner, in_at) WHERE mentions = 1;

-- Since when which common plan was in force: days that have passed are shown as
-- they were planned. 0 is no plan.
CREATE TABLE plan_history (id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), plan_id INTEGER NOT NULL, at INTEGER NOT NULL) STRICT;
CREATE INDEX plan_history_owner ON plan_history (owner, at);
INSERT INTO plan_history (owner, plan_id, at) SELECT c.owner, CAST(c.now AS INTEGER), j.at FROM changes c JOIN journal j ON j.id = c.journal_id
  WHERE c.object = 'person' AND c.field = 'planId' ORDER BY c.id;
