-- Programs elsewhere that tell of a run while they measure; of tokens only hashes are here.
CREATE TABLE run_streams (
  run_id     INTEGER NOT NULL REFERENCES runs (id),
  -- Its number among those who tell of the run.
  sender     INTEGER NOT NULL,
  name       TEXT    NOT NULL,
  hash       TEXT    NOT NULL UNIQUE,
  created_at INTEGER NOT NULL,
  heard_at   INTEGER,
  -- Lines that were taken, and that could not be read.
  taken      INTEGER NOT NULL DEFAULT 0,
  faulty     INTEGER NOT NULL DEFAULT 0,
  -- It has said its last word.
  ended_at   INTEGER,
  PRIMARY KEY (run_id, sender)
) STRICT;
