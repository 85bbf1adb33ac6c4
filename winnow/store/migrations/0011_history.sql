-- The list of what was done: through which filter, and whether it was taken back since.
ALTER TABLE batch ADD COLUMN seen TEXT NOT NULL DEFAULT ''; -- the filter it was done under, as a sentence
CREATE INDEX batch_by_reverts ON batch (reverts, id) WHERE reverts IS NOT NULL;
