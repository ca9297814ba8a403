-- Sums know status codes, bytes sent and extremes from now on (encoding 4); files that hold others go on in theirs.
UPDATE facts
SET value = CASE WHEN EXISTS (SELECT 1 FROM pyramid) THEN value ELSE '4' END
WHERE name = 'sums';
