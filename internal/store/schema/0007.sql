-- Delivery plans. One is never changed once it is made; people.plan_id and
-- accounts.plan_id say which is in force: 0 for none, -1 for the common one.
CREATE TABLE plans (id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), value TEXT NOT NULL, made_at INTEGER NOT NULL) STRICT;
CREATE INDEX plans_owner ON plans (owner, id);
ALTER TABLE people ADD COLUMN plan_id INTEGER NOT NULL DEFAULT 0;
ALTER TABLE accounts ADD COLUMN plan_id INTEGER NOT NULL DEFAULT -1;

-- The next delivery, worked out with every change of what it follows from.
-- delivery_seq tells apart deliveries that are set to the same time anew.
ALTER TABLE people ADD COLUMN deliver_at INTEGER;
ALTER TABLE people ADD COLUMN delivery_seq INTEGER NOT NULL DEFAULT 0;
CREATE INDEX people_deliver ON people (deliver_at) WHERE deliver_at IS NOT NULL;
UPDATE people SET deliver_at = (SELECT min(until_at) FROM holds WHERE owner = people.id AND alive = 1 AND ended_at IS NULL AND until_at IS NOT NULL);

-- The holding note, and what may notify; both JSON, '' for the usual.
ALTER TABLE people ADD COLUMN holding_note TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN notices TEXT NOT NULL DEFAULT '';

-- A hold of one account, or of all (0); with everything nothing is let through.
-- An opening stands here as well: it is the opposite of a hold.
ALTER TABLE holds ADD COLUMN account_id INTEGER NOT NULL DEFAULT 0;
ALTER TABLE holds ADD COLUMN everything INTEGER NOT NULL DEFAULT 0;
ALTER TABLE holds ADD COLUMN opens INTEGER NOT NULL DEFAULT 0;

CREATE TABLE let_through (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0, kind TEXT NOT NULL, value TEXT NOT NULL,
  key_person INTEGER NOT NULL DEFAULT 0, until TEXT, until_at INTEGER, made_at INTEGER NOT NULL
) STRICT;
CREATE INDEX let_through_owner ON let_through (owner) WHERE alive = 1;
-- By which entry a letter was let through, in words.
ALTER TABLE letters ADD COLUMN through TEXT NOT NULL DEFAULT '';
CREATE INDEX letters_through ON letters (owner, in_at) WHERE through <> '';
ALTER TABLE conversations ADD COLUMN through TEXT NOT NULL DEFAULT '';

-- What kind of automatic answer a letter in the outbox is.
ALTER TABLE outbox ADD COLUMN auto_kind TEXT NOT NULL DEFAULT '';
CREATE INDEX outbox_holding ON outbox (owner, send_at) WHERE auto_kind <> '';

-- Held letters that will begin a conversation of their own. What that takes is
-- worked out when they arrive, so that a large round is quick; they are in the
-- full-text index already, where no search finds them before they are let in.
-- sender is whom that makes known, '' for nobody.
CREATE TABLE prepared (
  letter_id INTEGER PRIMARY KEY REFERENCES letters(id) ON DELETE CASCADE, owner INTEGER NOT NULL, persons TEXT NOT NULL, sender TEXT NOT NULL
) STRICT;
