-- Passes kept whole. The record is JSON; the columns are what it is found by.
CREATE TABLE passes (
  id        INTEGER PRIMARY KEY,
  generator INTEGER NOT NULL,
  group_name TEXT   NOT NULL,
  -- Kind of its first failure; empty: none.
  failure   TEXT    NOT NULL,
  -- From the start of the run, ms.
  began_ms  REAL    NOT NULL,
  ended_ms  REAL    NOT NULL,
  busy_ms   REAL    NOT NULL,
  record    TEXT    NOT NULL
) STRICT;
CREATE INDEX passes_by_time ON passes (began_ms, ended_ms);
