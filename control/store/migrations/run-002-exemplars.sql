-- How sums are encoded: files of the first release hold encoding 1 and are only read from now on.
INSERT INTO facts (name, value)
SELECT 'sums', CASE WHEN EXISTS (SELECT 1 FROM pyramid) THEN '1' ELSE '2' END;

-- Exchanges kept whole, beside the counts. The record is JSON; the columns are what it is found by.
CREATE TABLE exemplars (
  id        INTEGER PRIMARY KEY,
  generator INTEGER NOT NULL,
  step      TEXT    NOT NULL,
  kept_for  TEXT    NOT NULL,
  -- Kind of failure; empty when the answer was right.
  failure   TEXT    NOT NULL,
  -- From the start of the run, ms.
  ended_ms  REAL    NOT NULL,
  whole_ms  REAL    NOT NULL,
  record    TEXT    NOT NULL
) STRICT;
CREATE INDEX exemplars_of_step ON exemplars (step, whole_ms);

-- Batches of exemplars that are here: one that comes again changes nothing.
CREATE TABLE exemplar_batches (
  generator   INTEGER NOT NULL,
  incarnation INTEGER NOT NULL,
  batch       INTEGER NOT NULL,
  -- Exemplars the generator's bound took.
  dropped     INTEGER NOT NULL,
  PRIMARY KEY (generator, incarnation, batch)
) STRICT, WITHOUT ROWID;

-- What commands left: their log, and files they were told to bring back.
CREATE TABLE leftovers (
  generator  INTEGER NOT NULL,
  group_name TEXT    NOT NULL,
  name       TEXT    NOT NULL,
  content    BLOB    NOT NULL,
  PRIMARY KEY (generator, group_name, name)
) STRICT, WITHOUT ROWID;
