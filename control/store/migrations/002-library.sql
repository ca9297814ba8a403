-- The library: what targets, journeys and feeds are made of, and how they changed.

-- Values of targets that are never shown, sealed with the key file (AES-256-GCM: nonce, tag, text).
CREATE TABLE secrets (
  target_id TEXT NOT NULL REFERENCES targets (id) ON DELETE CASCADE,
  name      TEXT NOT NULL,
  sealed    BLOB NOT NULL,
  PRIMARY KEY (target_id, name)
) STRICT, WITHOUT ROWID;

-- Every version of every journey; the last is the present one.
CREATE TABLE journey_versions (
  id       TEXT    NOT NULL,
  version  INTEGER NOT NULL,
  saved_at INTEGER NOT NULL,
  document TEXT    NOT NULL,
  PRIMARY KEY (id, version)
) STRICT, WITHOUT ROWID;
INSERT INTO journey_versions (id, version, saved_at, document)
SELECT id, 1, 0, document FROM journeys ORDER BY rowid;
DROP TABLE journeys;

-- Contents kept by their SHA-256 in the folder `files`: uploads, rows of feeds, kits.
CREATE TABLE files (
  id       TEXT    PRIMARY KEY,
  name     TEXT    NOT NULL,
  bytes    INTEGER NOT NULL,
  added_at INTEGER NOT NULL
) STRICT;

-- Test data. The document says columns, rows, how the text was read, and where its rows are.
CREATE TABLE feeds (
  id       TEXT    PRIMARY KEY,
  added_at INTEGER NOT NULL,
  document TEXT    NOT NULL
) STRICT;
