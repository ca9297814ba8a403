-- One run's own file: what its generators sent, and what was merged from it.

-- Frames as received, the truth. Rows are only ever added.
CREATE TABLE frames (
  generator   INTEGER NOT NULL,
  incarnation INTEGER NOT NULL,
  worker      INTEGER NOT NULL,
  sequence    INTEGER NOT NULL,
  second      INTEGER NOT NULL,
  bytes       BLOB    NOT NULL,
  PRIMARY KEY (generator, incarnation, worker, sequence)
) STRICT, WITHOUT ROWID;
CREATE INDEX frames_by_second ON frames (second);

-- Frames that could not be read, kept beside the others with the reason.
CREATE TABLE unreadable (
  id        INTEGER PRIMARY KEY,
  generator INTEGER NOT NULL,
  reason    TEXT    NOT NULL,
  bytes     BLOB    NOT NULL
) STRICT;

-- Merged sums per series over 1, 10, 100 and 1,000 s: any window is a few dozen additions.
CREATE TABLE pyramid (
  level  INTEGER NOT NULL,
  slot   INTEGER NOT NULL,
  series INTEGER NOT NULL,
  sum    BLOB    NOT NULL,
  PRIMARY KEY (level, slot, series)
) STRICT, WITHOUT ROWID;

-- Figures of each second as drawn on the stave.
CREATE TABLE seconds (
  second  INTEGER PRIMARY KEY,
  final   INTEGER NOT NULL,
  figures TEXT    NOT NULL
) STRICT;

-- Single facts: `mergedUpTo`, the last second that is in the pyramid.
CREATE TABLE facts (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;
