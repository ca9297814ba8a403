-- Of each plan one run may be what later ones are held against.
ALTER TABLE runs ADD COLUMN is_baseline INTEGER NOT NULL DEFAULT 0;
CREATE UNIQUE INDEX baseline_of_plan ON runs (plan_id) WHERE is_baseline = 1;
