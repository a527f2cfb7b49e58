-- Rules are tried on what came lately.
CREATE INDEX letters_lately ON letters (owner, received_at, id) WHERE own = 0 AND in_at IS NOT NULL;
