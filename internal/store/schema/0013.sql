-- What went through the inbox is counted by whoever writes the history, once a
-- transaction, rather than by a trigger for each row of it.
DROP TRIGGER letters_tally;
DROP TRIGGER place_history_entered;
DROP TRIGGER place_history_left;
-- The inbox by minutes, from which a day is read off however much came.
CREATE TABLE tides (
  owner INTEGER NOT NULL, minute INTEGER NOT NULL, last_at INTEGER NOT NULL, sum INTEGER NOT NULL, before INTEGER NOT NULL,
  top INTEGER NOT NULL, low INTEGER NOT NULL, low_at INTEGER NOT NULL, PRIMARY KEY (owner, minute)
) STRICT, WITHOUT ROWID;
-- How many conversations are in the inbox.
CREATE TABLE inbox_counts (owner INTEGER PRIMARY KEY, n INTEGER NOT NULL) STRICT;
