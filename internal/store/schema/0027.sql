-- Correspondents: what is written down of them, and their letters by who stands in a conversation; letters with files.
CREATE INDEX conversation_persons_of ON conversation_persons (owner, person);
CREATE TABLE contacts (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  name TEXT NOT NULL DEFAULT '', emails TEXT NOT NULL DEFAULT '[]', phones TEXT NOT NULL DEFAULT '[]',
  org TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX letters_attached ON letters (owner, received_at, id) WHERE attachments > 0;
-- Files that rules save into a folder: where each is to stand, and does.
CREATE TABLE savings (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  rule_id INTEGER NOT NULL, letter_id INTEGER NOT NULL, part INTEGER NOT NULL, path TEXT NOT NULL, saved_as TEXT NOT NULL DEFAULT '',
  tries INTEGER NOT NULL DEFAULT 0, next_at INTEGER
) STRICT;
CREATE INDEX savings_next ON savings (next_at) WHERE next_at IS NOT NULL;
-- When somebody was last met is when their letter came, whatever it says of itself.
UPDATE known_people SET last_at = coalesce((SELECT max(l.received_at) FROM letters l WHERE l.owner = known_people.owner AND l.from_email = known_people.email), last_at)
  WHERE last_at > (SELECT max(received_at) FROM letters);
