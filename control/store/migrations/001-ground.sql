-- What does not belong to one run alone. Moments are ms since 1970 on the controller's clock; documents are JSON.

-- Systems under load, with their owner's approval.
CREATE TABLE targets (
  id       TEXT PRIMARY KEY,
  document TEXT NOT NULL
) STRICT;

-- What users do.
CREATE TABLE journeys (
  id       TEXT PRIMARY KEY,
  document TEXT NOT NULL
) STRICT;

-- Plans as they are now; each save raises the version.
CREATE TABLE plans (
  id       TEXT    PRIMARY KEY,
  version  INTEGER NOT NULL,
  saved_at INTEGER NOT NULL,
  document TEXT    NOT NULL
) STRICT;

-- Executions of plans. The document is the snapshot the run was made from and never changes.
CREATE TABLE runs (
  id         INTEGER PRIMARY KEY,
  plan_id    TEXT    NOT NULL,
  state      TEXT    NOT NULL,
  -- How it will end once drained: settled, stopped or aborted.
  ending     TEXT    NOT NULL DEFAULT 'settled',
  document   TEXT    NOT NULL,
  created_at INTEGER NOT NULL,
  -- Moment of run second 0.
  start_at   REAL,
  ended_at   INTEGER,
  -- Result once settled: answer, ledger, findings.
  summary    TEXT,
  rehearsed  INTEGER NOT NULL DEFAULT 0
) STRICT;

-- Every change of a run's state, with its reason; also remarks without a change.
CREATE TABLE run_changes (
  id         INTEGER PRIMARY KEY,
  run_id     INTEGER NOT NULL REFERENCES runs (id) ON DELETE CASCADE,
  at         INTEGER NOT NULL,
  from_state TEXT    NOT NULL,
  to_state   TEXT    NOT NULL,
  event      TEXT    NOT NULL,
  reason     TEXT    NOT NULL
) STRICT;
CREATE INDEX run_changes_of_run ON run_changes (run_id, id);

-- Machines of a run, from asking to confirmed release.
CREATE TABLE machines (
  id              TEXT    PRIMARY KEY,
  run_id          INTEGER NOT NULL REFERENCES runs (id),
  provider        TEXT    NOT NULL,
  region          TEXT    NOT NULL,
  location        TEXT    NOT NULL,
  -- Place among the machines of its location, from 0.
  place           INTEGER NOT NULL,
  name            TEXT    NOT NULL,
  type            TEXT    NOT NULL,
  state           TEXT    NOT NULL,
  since           INTEGER NOT NULL,
  -- The provider's own name for it, once it has one.
  ref             TEXT,
  idempotency_key TEXT    NOT NULL UNIQUE,
  asked_at        INTEGER NOT NULL,
  -- Billing starts.
  allocated_at    INTEGER,
  -- The provider has confirmed that it is gone: billing ends.
  gone_at         INTEGER,
  lease_ends_at   INTEGER NOT NULL,
  -- Largest clock uncertainty seen while loading, ms.
  clock_ms        REAL,
  facts           TEXT
) STRICT;
CREATE INDEX machines_of_run ON machines (run_id);
CREATE INDEX machines_out ON machines (gone_at) WHERE gone_at IS NULL;

-- Every change of a machine's state, with its reason.
CREATE TABLE machine_changes (
  id         INTEGER PRIMARY KEY,
  machine_id TEXT    NOT NULL REFERENCES machines (id) ON DELETE CASCADE,
  at         INTEGER NOT NULL,
  from_state TEXT    NOT NULL,
  to_state   TEXT    NOT NULL,
  event      TEXT    NOT NULL,
  reason     TEXT    NOT NULL
) STRICT;
CREATE INDEX machine_changes_of_machine ON machine_changes (machine_id, id);

-- One-time tokens, hashed, and the key a generator proves itself with afterwards.
CREATE TABLE enrolments (
  token_hash TEXT    PRIMARY KEY,
  machine_id TEXT    NOT NULL UNIQUE REFERENCES machines (id) ON DELETE CASCADE,
  expires_at INTEGER NOT NULL,
  used_at    INTEGER,
  public_key TEXT
) STRICT;

-- What must still be done outside: written in the transaction that decided it, struck off when done.
CREATE TABLE outbox (
  id         INTEGER PRIMARY KEY,
  kind       TEXT    NOT NULL,
  subject    TEXT    NOT NULL,
  written_at INTEGER NOT NULL,
  attempts   INTEGER NOT NULL DEFAULT 0,
  trouble    TEXT
) STRICT;

-- Single facts: controller epoch, installation name, daily budget.
CREATE TABLE facts (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;
