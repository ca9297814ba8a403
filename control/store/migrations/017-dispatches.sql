-- Addresses of programs that are told of runs; what is sent to them is signed with a sealed key.
CREATE TABLE hooks (
  id         INTEGER PRIMARY KEY,
  name       TEXT    NOT NULL UNIQUE,
  address    TEXT    NOT NULL,
  -- JSON: what they are told of.
  tells      TEXT    NOT NULL,
  sealed     BLOB    NOT NULL,
  created_at INTEGER NOT NULL
) STRICT;
-- What is sent out: waiting, sent, or given up.
CREATE TABLE dispatches (
  id         INTEGER PRIMARY KEY,
  -- What must not be sent twice has the same.
  key        TEXT    NOT NULL UNIQUE,
  hook_id    INTEGER REFERENCES hooks (id) ON DELETE CASCADE,
  -- Address of a hook, or of mail.
  recipient  TEXT    NOT NULL,
  run_id     INTEGER,
  about      TEXT    NOT NULL,
  -- JSON that a hook is sent; of mail nothing: it is made when it is sent.
  content    TEXT,
  written_at INTEGER NOT NULL,
  attempts   INTEGER NOT NULL DEFAULT 0,
  -- NULL: not tried any more.
  next_at    INTEGER,
  sent_at    INTEGER,
  trouble    TEXT
) STRICT;
CREATE INDEX dispatches_waiting ON dispatches (next_at) WHERE next_at IS NOT NULL;
