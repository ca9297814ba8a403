-- Who may come in, with what, and what they did.
CREATE TABLE people (
  id         INTEGER PRIMARY KEY,
  name       TEXT    NOT NULL UNIQUE COLLATE NOCASE,
  role       TEXT    NOT NULL CHECK (role IN ('viewer', 'operator', 'keeper')),
  -- Hash in the PHC string format; NULL: signs in elsewhere only.
  password   TEXT,
  -- Issuer and subject of whom another service vouches for.
  elsewhere  TEXT    UNIQUE,
  created_at INTEGER NOT NULL,
  -- Kept for the trail, but not let in any more.
  left_at    INTEGER
) STRICT;

-- What signs in once comes back with a cookie; of it and of tokens only hashes are here.
CREATE TABLE sessions (
  id         INTEGER PRIMARY KEY,
  hash       TEXT    NOT NULL UNIQUE,
  person_id  INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
  created_at INTEGER NOT NULL,
  seen_at    INTEGER NOT NULL,
  address    TEXT    NOT NULL,
  browser    TEXT    NOT NULL
) STRICT;
CREATE INDEX sessions_of_person ON sessions (person_id);

CREATE TABLE api_tokens (
  id         INTEGER PRIMARY KEY,
  hash       TEXT    NOT NULL UNIQUE,
  person_id  INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
  name       TEXT    NOT NULL,
  role       TEXT    NOT NULL CHECK (role IN ('viewer', 'operator', 'keeper')),
  created_at INTEGER NOT NULL,
  ends_at    INTEGER NOT NULL,
  used_at    INTEGER
) STRICT;
CREATE INDEX api_tokens_of_person ON api_tokens (person_id);

CREATE TABLE trail (
  id      INTEGER PRIMARY KEY,
  at      INTEGER NOT NULL,
  who     TEXT    NOT NULL,
  bearer  TEXT    NOT NULL,
  address TEXT    NOT NULL,
  -- An operation of the API.
  act     TEXT    NOT NULL,
  -- What it was about: names in its address, never what was sent.
  about   TEXT    NOT NULL,
  -- 'done', or the code it was refused with.
  outcome TEXT    NOT NULL
) STRICT;
