-- Sums know passes from now on (encoding 3); files that hold others are only read.
UPDATE facts
SET value = CASE WHEN EXISTS (SELECT 1 FROM pyramid) THEN value ELSE '3' END
WHERE name = 'sums';
