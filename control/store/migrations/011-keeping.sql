-- What a run measured may be given back: its exchanges, or everything but its answer. Runs that are kept for good are
-- left alone.
ALTER TABLE runs ADD COLUMN kept INTEGER NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN exchanges_cleared_at INTEGER;
ALTER TABLE runs ADD COLUMN cleared_at INTEGER;
