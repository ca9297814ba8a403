-- Which generator an event of a run is about, by its name; NULL: none. Until now it was the first word of the reason.
ALTER TABLE run_changes ADD COLUMN about TEXT;
UPDATE run_changes
SET about = substr(reason, 1, instr(reason, ' ') - 1)
WHERE event IN ('generatorLost', 'generatorAbsent');
