-- What people say of a run: its name, notes, tags, and whether it is pinned.
ALTER TABLE runs ADD COLUMN about TEXT NOT NULL DEFAULT '{}';
