-- Who plays what of a run under load since somebody was lost: what a generator has taken over, and whether it has nothing of its own any more.
CREATE TABLE take_overs (
  run_id    INTEGER NOT NULL REFERENCES runs (id),
  generator INTEGER NOT NULL,
  is_bare   INTEGER NOT NULL,
  taken     TEXT    NOT NULL,
  PRIMARY KEY (run_id, generator)
) STRICT, WITHOUT ROWID;
