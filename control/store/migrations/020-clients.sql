-- Clients of the operator's own; presets ship with the program.
CREATE TABLE clients (
  id       TEXT PRIMARY KEY,
  document TEXT NOT NULL
) STRICT;
