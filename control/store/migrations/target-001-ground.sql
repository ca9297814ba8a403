-- The target's own account of one run: what was read of its sources.
CREATE TABLE lines (
  id INTEGER PRIMARY KEY,
  -- Name of the series, and the value of the label that tells its lines apart.
  series TEXT NOT NULL,
  split TEXT NOT NULL,
  UNIQUE (series, split)
);
-- `at`: ms since 1970, on the controller's clock. Counters: what they grew by since the first reading.
CREATE TABLE points (
  line INTEGER NOT NULL,
  at INTEGER NOT NULL,
  value REAL NOT NULL,
  PRIMARY KEY (line, at)
) WITHOUT ROWID;
-- How each source stands, and what its next reading is held against; JSON.
CREATE TABLE sources (name TEXT PRIMARY KEY, standing TEXT NOT NULL, counters TEXT NOT NULL) WITHOUT ROWID;
