-- The name of the colour space that a file is in, NULL where it does not say, and whether a profile tells it. Heads are
-- read once more for it.
ALTER TABLE frame ADD COLUMN space TEXT;
ALTER TABLE frame ADD COLUMN profiled INTEGER NOT NULL DEFAULT 0;
UPDATE frame SET stage = 0 WHERE problem IS NULL;
