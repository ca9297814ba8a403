-- The sums of a slot lie together from here on (6): see slots.ts. What was summed before stays as it is, and goes on so.
CREATE TABLE packs (
  level INTEGER NOT NULL,
  slot  INTEGER NOT NULL,
  sums  BLOB    NOT NULL,
  PRIMARY KEY (level, slot)
) STRICT;
UPDATE facts
SET value = CASE WHEN EXISTS (SELECT 1 FROM pyramid) THEN value ELSE '6' END
WHERE name = 'sums';
