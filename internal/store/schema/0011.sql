-- How long a letter waits to be undone before it leaves, in seconds.
ALTER TABLE people ADD COLUMN send_delay INTEGER NOT NULL DEFAULT 10;
