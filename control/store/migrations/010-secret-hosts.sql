-- Secrets belong to the hosts they were given for. NULL: kept by an earlier release, before that was noted.
ALTER TABLE secrets ADD COLUMN hosts TEXT;
