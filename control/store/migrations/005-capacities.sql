-- What generators carry: calibrated, set by hand, or refined from a run. All are kept; the newest of a kind counts.
CREATE TABLE capacities (
  id           TEXT    PRIMARY KEY,
  journey_id   TEXT    NOT NULL,
  network      TEXT    NOT NULL,
  provider     TEXT    NOT NULL,
  machine_type TEXT    NOT NULL,
  at           INTEGER NOT NULL,
  document     TEXT    NOT NULL,
  -- Levels, seconds and fits it was found by; none where it was not measured here.
  evidence     TEXT
) STRICT;
CREATE INDEX capacities_of_journey ON capacities (journey_id, provider, machine_type, at);

-- Batches of calibrations: what was asked for, and how each item stands.
CREATE TABLE calibrations (
  id         INTEGER PRIMARY KEY,
  created_at INTEGER NOT NULL,
  ended_at   INTEGER,
  document   TEXT    NOT NULL
) STRICT;
