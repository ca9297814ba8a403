-- Links by which somebody without an account sees one thing; of what they carry only hashes are here.
CREATE TABLE shared_links (
  id         INTEGER PRIMARY KEY,
  hash       TEXT    NOT NULL UNIQUE,
  -- JSON: what it opens, and what of it is shown.
  opens      TEXT    NOT NULL,
  made_by    TEXT    NOT NULL,
  created_at INTEGER NOT NULL,
  ends_at    INTEGER NOT NULL,
  -- Taken back.
  ended_at   INTEGER,
  -- How often it was opened.
  opened     INTEGER NOT NULL DEFAULT 0,
  opened_at  INTEGER
) STRICT;
