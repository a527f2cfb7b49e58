-- Follow-ups in full. A stage is one of the person's own lanes; recurs and
-- checklist are JSON; uid names it in other programs.
ALTER TABLE followups DROP COLUMN stage;
ALTER TABLE followups ADD COLUMN stage_id INTEGER NOT NULL DEFAULT 0;
ALTER TABLE followups ADD COLUMN recurs TEXT;
ALTER TABLE followups ADD COLUMN checklist TEXT NOT NULL DEFAULT '[]';
ALTER TABLE followups ADD COLUMN uid TEXT NOT NULL DEFAULT '';
CREATE INDEX followups_uid ON followups (owner, uid) WHERE uid <> '';
CREATE INDEX followups_done ON followups (owner, done_at) WHERE alive = 1 AND done_at IS NOT NULL;

-- A reminder that moves with the due or start (JSON); NULL for a time of its own.
ALTER TABLE reminders ADD COLUMN relative TEXT;

CREATE TABLE stages (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0, name TEXT NOT NULL,
  colour TEXT NOT NULL DEFAULT 'tide', shape TEXT NOT NULL DEFAULT 'circle', position INTEGER NOT NULL DEFAULT 0, most INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX stages_owner ON stages (owner, position, id);

-- Filters of the board that are kept under a name (JSON).
CREATE TABLE kept_filters (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0, name TEXT NOT NULL, value TEXT NOT NULL
) STRICT;
CREATE INDEX kept_filters_owner ON kept_filters (owner, id);

-- What the order of follow-ups weighs (JSON; '' for the usual), and the secret
-- part of the person's intake address.
ALTER TABLE people ADD COLUMN weights TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN intake TEXT NOT NULL DEFAULT '';
CREATE INDEX people_intake ON people (intake) WHERE intake <> '';

-- The follow-up that waits along with an expectation; 0 for none.
ALTER TABLE expectations ADD COLUMN followup_id INTEGER NOT NULL DEFAULT 0;

-- The history of one follow-up.
CREATE INDEX changes_of ON changes (object_id, object) WHERE object = 'followup';
