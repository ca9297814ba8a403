-- Machines outlive runs: kept warm, or enrolled by themselves. What a machine is stands here, whom it works for in crew.
CREATE TABLE machines_anew (
  id              TEXT    PRIMARY KEY,
  -- Run it works for now; none: it waits, kept warm or enrolled by itself.
  run_id          INTEGER REFERENCES runs (id),
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
  -- The provider was asked and may have acted, though it has not said so.
  tried_at        INTEGER,
  -- Billing starts.
  allocated_at    INTEGER,
  release_asked_at INTEGER,
  -- The provider has confirmed that it is gone: billing ends.
  gone_at         INTEGER,
  lease_ends_at   INTEGER NOT NULL,
  -- The provider has said it will take it back then.
  reclaim_at      INTEGER,
  -- Largest clock uncertainty seen while loading, ms.
  clock_ms        REAL,
  facts           TEXT,
  -- What its time costs, as the provider said when it was asked for.
  price           TEXT    NOT NULL,
  -- What is attached to it, and other wishes of the order.
  wishes          TEXT    NOT NULL DEFAULT '{}',
  -- Why it is not there yet: code, sentence, since, next try.
  waits           TEXT,
  -- 2: takes the place of one that failed.
  attempt         INTEGER NOT NULL DEFAULT 1,
  -- What the provider has billed, in its currency, once it has.
  billed          REAL,
  -- Address its generator connects from.
  address         TEXT
) STRICT;
INSERT INTO machines_anew (id, run_id, provider, region, location, place, name, type, state, since, ref, idempotency_key, asked_at, allocated_at, gone_at, lease_ends_at, clock_ms, facts, price)
  SELECT m.id, m.run_id, m.provider, m.region, m.location, m.place, m.name, m.type, m.state, m.since, m.ref, m.idempotency_key, m.asked_at, m.allocated_at, m.gone_at, m.lease_ends_at, m.clock_ms, m.facts,
    COALESCE((
      SELECT json_object('perHour', json_extract(o.value, '$.type.pricePerHour'), 'grainS', json_extract(o.value, '$.type.billingGrainS'), 'minimumS', 0, 'extrasPerHour', 0, 'currency', 'EUR', 'asOf', '', 'interruptible', json('false'))
      FROM runs r, json_each(r.document, '$.fleet') o
      WHERE r.id = m.run_id AND json_extract(o.value, '$.location') = m.location), '{"perHour":0,"grainS":1,"minimumS":0,"extrasPerHour":0,"currency":"EUR","asOf":"","interruptible":false}')
  FROM machines m;

-- Who worked for which run, where, from when to when.
CREATE TABLE crew (
  run_id     INTEGER NOT NULL REFERENCES runs (id) ON DELETE CASCADE,
  machine_id TEXT    NOT NULL,
  location   TEXT    NOT NULL,
  place      INTEGER NOT NULL,
  name       TEXT    NOT NULL,
  taken_at   INTEGER NOT NULL,
  left_at    INTEGER,
  -- Another machine has its place.
  replaced   INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (run_id, machine_id)
) STRICT;
CREATE INDEX crew_of_machine ON crew (machine_id);
INSERT INTO crew (run_id, machine_id, location, place, name, taken_at, left_at) SELECT run_id, id, location, place, name, asked_at, gone_at FROM machines;

DROP TABLE machines;
ALTER TABLE machines_anew RENAME TO machines;
CREATE INDEX machines_of_run ON machines (run_id);
CREATE INDEX machines_out ON machines (gone_at) WHERE gone_at IS NULL;

-- Accounts at cloud providers. The key is sealed.
CREATE TABLE accounts (
  id       TEXT PRIMARY KEY,
  document TEXT NOT NULL,
  sealed   BLOB NOT NULL
) STRICT;

-- Keys of private servers: sealed, with their passphrases.
CREATE TABLE ssh_keys (
  name       TEXT PRIMARY KEY,
  -- Fingerprint of the public half, to recognise it by.
  fingerprint TEXT NOT NULL,
  sealed     BLOB NOT NULL
) STRICT;

-- Private sites: a template and the hosts that differ from it.
CREATE TABLE sites (
  id       TEXT PRIMARY KEY,
  document TEXT NOT NULL
) STRICT;

-- Keys of hosts as first seen; another one is refused until somebody accepts it.
CREATE TABLE host_keys (
  address     TEXT    NOT NULL,
  port        INTEGER NOT NULL,
  fingerprint TEXT    NOT NULL,
  seen_at     INTEGER NOT NULL,
  PRIMARY KEY (address, port)
) STRICT;

-- What the last try of a host found, step by step.
CREATE TABLE host_tries (
  host     TEXT PRIMARY KEY,
  tried_at INTEGER NOT NULL,
  document TEXT    NOT NULL
) STRICT;

-- Commands run by hand on private hosts, with what each said.
CREATE TABLE host_commands (
  id       INTEGER PRIMARY KEY,
  at       INTEGER NOT NULL,
  command  TEXT    NOT NULL,
  results  TEXT    NOT NULL
) STRICT;

-- Invitations to machines that enrol by themselves: one-time tokens, hashed.
CREATE TABLE invitations (
  token_hash TEXT    PRIMARY KEY,
  location   TEXT    NOT NULL,
  made_at    INTEGER NOT NULL,
  expires_at INTEGER NOT NULL,
  lease_ms   INTEGER NOT NULL,
  -- Machine that used it.
  machine_id TEXT
) STRICT;

-- Roll calls as they were answered. Kept with the run, where there is one.
CREATE TABLE roll_calls (
  id         INTEGER PRIMARY KEY,
  run_id     INTEGER REFERENCES runs (id) ON DELETE CASCADE,
  machine_id TEXT    NOT NULL,
  at         INTEGER NOT NULL,
  report     TEXT    NOT NULL
) STRICT;
CREATE INDEX roll_calls_of_machine ON roll_calls (machine_id, id);
CREATE INDEX roll_calls_of_run ON roll_calls (run_id);

-- What generators wrote, collected when they ended.
CREATE TABLE machine_logs (
  machine_id TEXT    PRIMARY KEY REFERENCES machines (id) ON DELETE CASCADE,
  at         INTEGER NOT NULL,
  content    TEXT    NOT NULL
) STRICT;
