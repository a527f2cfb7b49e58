-- How many conversations are in each place that is undecided, kept rather than counted.
DROP TABLE inbox_counts;
CREATE TABLE place_counts (
	owner INTEGER NOT NULL, place TEXT NOT NULL, n INTEGER NOT NULL, PRIMARY KEY (owner, place)
) STRICT, WITHOUT ROWID;
-- How many letters a correction has put away that says what is not wanted, and when the last.
ALTER TABLE corrections ADD COLUMN took INTEGER NOT NULL DEFAULT 0;
ALTER TABLE corrections ADD COLUMN took_at INTEGER;
CREATE INDEX letters_unwanted ON letters (owner, id) WHERE kind IN ('away', 'junk');
-- Who was sorted out, and when first.
CREATE INDEX letters_sorted ON letters (owner, from_email, received_at) WHERE sorted_out = 1;
