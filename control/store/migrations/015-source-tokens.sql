-- What programs come with that send a target's own figures; of tokens only hashes are here.
CREATE TABLE source_tokens (
  target_id  TEXT    NOT NULL,
  -- Name of the source.
  source     TEXT    NOT NULL,
  hash       TEXT    NOT NULL UNIQUE,
  created_at INTEGER NOT NULL,
  used_at    INTEGER,
  PRIMARY KEY (target_id, source)
) STRICT;
