-- To whom an automatic answer goes (an address key); '' for what a person wrote.
ALTER TABLE outbox ADD COLUMN auto_to TEXT NOT NULL DEFAULT '';
CREATE INDEX outbox_auto ON outbox (owner, auto_to, send_at) WHERE auto_to <> '';

-- The weekly look-through of someday letters: on which day (0 is Sunday), how
-- many come up (0 for none), and when the next one is; NULL to be worked out.
ALTER TABLE people ADD COLUMN look_day INTEGER NOT NULL DEFAULT 5;
ALTER TABLE people ADD COLUMN look_count INTEGER NOT NULL DEFAULT 5;
ALTER TABLE people ADD COLUMN look_at INTEGER;

-- What came, entered the inbox and left it, by quarters of an hour: what is
-- expected of a day is read off these rather than off the whole history.
CREATE TABLE tallies (
  owner INTEGER NOT NULL, quarter INTEGER NOT NULL, came INTEGER NOT NULL DEFAULT 0, entered INTEGER NOT NULL DEFAULT 0, gone INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (owner, quarter)
) STRICT, WITHOUT ROWID;
INSERT INTO tallies (owner, quarter, came) SELECT owner, received_at / 900000, count(*) FROM letters WHERE own = 0 GROUP BY 1, 2;
INSERT INTO tallies (owner, quarter, entered) SELECT owner, at / 900000, count(*) FROM place_history WHERE now = 'inbox' AND was NOT IN ('later', 'inbox') GROUP BY 1, 2
  ON CONFLICT DO UPDATE SET entered = excluded.entered;
INSERT INTO tallies (owner, quarter, gone) SELECT owner, at / 900000, count(*) FROM place_history WHERE was = 'inbox' AND now <> 'inbox' GROUP BY 1, 2
  ON CONFLICT DO UPDATE SET gone = excluded.gone;
CREATE TRIGGER letters_tally AFTER INSERT ON letters WHEN NEW.own = 0 BEGIN INSERT INTO tallies (owner, quarter, came) VALUES (NEW.owner, NEW.received_at / 900000, 1) ON CONFLICT DO UPDATE SET came = came + 1; END;
CREATE TRIGGER place_history_entered AFTER INSERT ON place_history WHEN NEW.now = 'inbox' AND NEW.was NOT IN ('later', 'inbox') BEGIN INSERT INTO tallies (owner, quarter, entered) VALUES (NEW.owner, NEW.at / 900000, 1) ON CONFLICT DO UPDATE SET entered = entered + 1; END;
CREATE TRIGGER place_history_left AFTER INSERT ON place_history WHEN NEW.was = 'inbox' AND NEW.now <> 'inbox' BEGIN INSERT INTO tallies (owner, quarter, gone) VALUES (NEW.owner, NEW.at / 900000, 1) ON CONFLICT DO UPDATE SET gone = gone + 1; END;
DROP INDEX letters_came;
