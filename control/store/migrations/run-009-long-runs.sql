-- Frames of one second that were kept together, deflated: see kept-frames.ts. Frames of before stay rows of their own.
CREATE TABLE chunks (
  id     INTEGER PRIMARY KEY,
  second INTEGER NOT NULL,
  frames BLOB    NOT NULL
) STRICT;
CREATE INDEX chunks_by_second ON chunks (second);

-- What each generator told of itself, a minute a row: see machine-seconds.ts.
CREATE TABLE machine_minutes (
  generator INTEGER NOT NULL,
  minute    INTEGER NOT NULL,
  -- Its signal that came furthest beyond its limit, or nearest to it: how far, and which.
  ratio     REAL    NOT NULL,
  signal    INTEGER NOT NULL,
  told      BLOB    NOT NULL,
  PRIMARY KEY (generator, minute)
) STRICT;

-- Of a long run the slowest second of each stretch is told. ms; −1: nothing was right. Earlier ones have it in their
-- figures alone, which then hold generators too.
ALTER TABLE seconds ADD COLUMN p95 REAL;
CREATE INDEX slowest_seconds ON seconds (second, p95);

-- Sums of each machine over 10, 100 and 1,000 s lie together by machine: see machine-sums.ts. They are made of frames,
-- and made anew where they had a row for each series.
DROP TABLE machine_sums;
DELETE FROM facts
WHERE name = 'machinesUpTo';
CREATE TABLE machine_packs (
  level     INTEGER NOT NULL,
  slot      INTEGER NOT NULL,
  generator INTEGER NOT NULL,
  sums      BLOB    NOT NULL,
  PRIMARY KEY (level, slot, generator)
) STRICT;
