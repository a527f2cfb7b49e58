-- To whom an automatic answer goes (an address key); '' for what a person wrote.
ALTER TABLE outbox ADD COLUMN auto_to TEXT NOT NULL DEFAULT '';
CREATE INDEX outbox_auto ON outbox (owner, auto_to, send_at) WHERE auto_to <> '';

-- The weekly look-through of someday letters: on which day (0 is Sunday), how
-- many come up (0 for none), and when the next one is; NULL to be worked out.
ALTER TABLE people ADD COLUMN look_day INTEGER NOT NULL DEFAULT 5;
ALTER TABLE people ADD COLUMN look_count INTEGER NOT NULL DEFAULT 5;
ALTER TABLE people ADD COLUMN look_at INTEGER;
