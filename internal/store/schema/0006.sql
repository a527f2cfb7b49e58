-- Appointments. start is a moment (JSON), attendees and organizer are JSON;
-- remind is how many minutes before it rings, -1 for never.
CREATE TABLE appointments (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0, uid TEXT NOT NULL, sequence INTEGER NOT NULL DEFAULT 0,
  title TEXT NOT NULL, place TEXT NOT NULL DEFAULT '', notes TEXT NOT NULL DEFAULT '', start TEXT NOT NULL, start_at INTEGER NOT NULL, end_at INTEGER NOT NULL,
  free INTEGER NOT NULL DEFAULT 0, cancelled INTEGER NOT NULL DEFAULT 0, organizer TEXT NOT NULL DEFAULT 'null', attendees TEXT NOT NULL DEFAULT '[]',
  mine INTEGER NOT NULL DEFAULT 1, reply TEXT NOT NULL DEFAULT '', conversation_id INTEGER NOT NULL DEFAULT 0,
  remind INTEGER NOT NULL DEFAULT -1, remind_state TEXT NOT NULL DEFAULT 'set', made_at INTEGER NOT NULL
) STRICT;
CREATE INDEX appointments_start ON appointments (owner, start_at) WHERE alive = 1;
CREATE INDEX appointments_uid ON appointments (owner, uid);
CREATE INDEX appointments_ring ON appointments (start_at - remind * 60000) WHERE alive = 1 AND cancelled = 0 AND remind >= 0 AND remind_state = 'set';
CREATE INDEX appointments_rang ON appointments (owner) WHERE alive = 1 AND remind_state = 'rang';

-- The secret part of the address at which other calendars read the person's.
ALTER TABLE people ADD COLUMN feed TEXT NOT NULL DEFAULT '';
CREATE INDEX people_feed ON people (feed) WHERE feed <> '';

-- The names in use, in their order.
CREATE INDEX followups_project ON followups (owner, project, status) WHERE alive = 1 AND project <> '';
CREATE INDEX followups_context ON followups (owner, context, status) WHERE alive = 1 AND context <> '';
CREATE INDEX followups_assignee ON followups (owner, assignee, status) WHERE alive = 1 AND assignee <> '';
