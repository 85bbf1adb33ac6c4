-- Marks that are a proposal, see core/proposals.
CREATE TABLE proposed (
  frame_id INTEGER PRIMARY KEY REFERENCES frame ON DELETE CASCADE,
  fields TEXT NOT NULL,                -- with a comma between
  by TEXT NOT NULL
);
-- What a device marks is a proposal.
ALTER TABLE device ADD COLUMN proposes INTEGER NOT NULL DEFAULT 0;
