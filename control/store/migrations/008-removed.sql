-- What was removed, as the rows it stood in: it can be brought back under its own id, with all its versions.
CREATE TABLE removed (
  kind       TEXT    NOT NULL,
  id         TEXT    NOT NULL,
  removed_at INTEGER NOT NULL,
  -- JSON: per table its rows; bytes are base64.
  rows       TEXT    NOT NULL,
  PRIMARY KEY (kind, id)
) STRICT, WITHOUT ROWID;
