-- How many conversations are in each place that is undecided, kept rather than counted.
DROP TABLE inbox_counts;
CREATE TABLE place_counts (
	owner INTEGER NOT NULL, place TEXT NOT NULL, n INTEGER NOT NULL, PRIMARY KEY (owner, place)
) STRICT, WITHOUT ROWID;
