-- What the report of a run is to show, where somebody chose; and choices that are kept by a name, one of them usual.
CREATE TABLE run_reports (
  run_id INTEGER PRIMARY KEY REFERENCES runs (id) ON DELETE CASCADE,
  wish TEXT NOT NULL
);

CREATE TABLE report_templates (
  name TEXT PRIMARY KEY,
  wish TEXT NOT NULL,
  is_usual INTEGER NOT NULL DEFAULT 0
);
