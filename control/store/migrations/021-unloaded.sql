-- What steps took in the rehearsal, as JSON: the unloaded line of a run.
ALTER TABLE runs ADD COLUMN unloaded TEXT NOT NULL DEFAULT '[]';
