-- Sums of each machine over 10, 100 and 1,000 s, made of its frames: see machine-sums.ts.
CREATE TABLE machine_sums (
  level     INTEGER NOT NULL,
  slot      INTEGER NOT NULL,
  generator INTEGER NOT NULL,
  series    INTEGER NOT NULL,
  sum       BLOB    NOT NULL,
  PRIMARY KEY (level, slot, generator, series)
) STRICT, WITHOUT ROWID;
