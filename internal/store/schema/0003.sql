-- When evenings begin (minutes; 0 for 18:00, or the end of a later working
-- day), whether 3/4 is 4 March, the person's own names for times (JSON; '' for
-- the usual ones), and how much of the free time is planned with, in percent.
ALTER TABLE people ADD COLUMN evening INTEGER NOT NULL DEFAULT 0;
ALTER TABLE people ADD COLUMN month_first INTEGER NOT NULL DEFAULT 0;
ALTER TABLE people ADD COLUMN named_times TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN share INTEGER NOT NULL DEFAULT 50;
-- Where the person is: one of their spots, or 0.
ALTER TABLE people ADD COLUMN spot_id INTEGER NOT NULL DEFAULT 0;

-- Places of the world that the person has named: a letter can wait until they
-- are there. (A place of a conversation is something else.)
CREATE TABLE spots (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), name TEXT NOT NULL, alive INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX spots_owner ON spots (owner, id);

-- The spot that a return waits for; 0 for none.
ALTER TABLE returns ADD COLUMN spot_id INTEGER NOT NULL DEFAULT 0;
CREATE INDEX returns_spot ON returns (owner, spot_id) WHERE spot_id <> 0;

-- Set for an expectation that a return made: it goes with it.
ALTER TABLE expectations ADD COLUMN for_return INTEGER NOT NULL DEFAULT 0;

-- What came back stands before what is new since it was decided.
UPDATE conversations SET back_rank = 2 WHERE back IS NOT NULL AND json_extract(back, '$.reason') <> 'new';

-- When letters from others came, for what is expected of a day.
CREATE INDEX letters_came ON letters (owner, received_at) WHERE own = 0;
