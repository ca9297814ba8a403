-- When the frames of a run were folded: what its generators sent second by second is gone, its sums are there.
ALTER TABLE runs ADD COLUMN folded_at INTEGER;
