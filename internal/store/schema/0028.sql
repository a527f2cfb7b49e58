-- Letters of correspondents who were erased, by what a letter is known by (a digest): mail servers and files don't
-- bring them again.
CREATE TABLE erased (
  owner INTEGER NOT NULL REFERENCES people(id), identity TEXT NOT NULL, PRIMARY KEY (owner, identity)
) STRICT, WITHOUT ROWID;
