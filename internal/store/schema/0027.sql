-- Correspondents: what is written down of them, and their letters by who stands in a conversation.
CREATE INDEX conversation_persons_of ON conversation_persons (owner, person);
CREATE TABLE contacts (
  id INTEGER PRIMARY KEY, owner INTEGER NOT NULL REFERENCES people(id), alive INTEGER NOT NULL DEFAULT 0,
  name TEXT NOT NULL DEFAULT '', emails TEXT NOT NULL DEFAULT '[]', phones TEXT NOT NULL DEFAULT '[]',
  org TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT ''
) STRICT;
-- When somebody was last met is when their letter came, whatever it says of itself.
UPDATE known_people SET last_at = coalesce((SELECT max(l.received_at) FROM letters l WHERE l.owner = known_people.owner AND l.from_email = known_people.email), last_at)
  WHERE last_at > (SELECT max(received_at) FROM letters);
