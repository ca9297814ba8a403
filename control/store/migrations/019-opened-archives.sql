-- Runs that another installation led, opened from an archive: what was known there of their machines.
ALTER TABLE runs ADD COLUMN opened TEXT;
