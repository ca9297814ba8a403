-- Every version of every plan; the last is the present one.
CREATE TABLE plan_versions (
  id       TEXT    NOT NULL,
  version  INTEGER NOT NULL,
  saved_at INTEGER NOT NULL,
  document TEXT    NOT NULL,
  PRIMARY KEY (id, version)
) STRICT, WITHOUT ROWID;
INSERT INTO plan_versions (id, version, saved_at, document)
SELECT id, version, saved_at, document FROM plans;
DROP TABLE plans;

-- Plans put away: kept with all versions and runs, left out of lists.
CREATE TABLE archived_plans (
  id          TEXT    PRIMARY KEY,
  archived_at INTEGER NOT NULL
) STRICT;

-- Network profiles of the operator's own; presets ship with the program.
CREATE TABLE networks (
  id       TEXT PRIMARY KEY,
  document TEXT NOT NULL
) STRICT;
