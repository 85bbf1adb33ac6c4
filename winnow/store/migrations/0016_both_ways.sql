-- The frame that an edited file came of.
ALTER TABLE frame ADD COLUMN original INTEGER REFERENCES frame ON DELETE SET NULL;
CREATE INDEX frame_by_original ON frame (original) WHERE original IS NOT NULL;
-- Marks on disk say something else than when both sides last agreed, and nobody has asked for them yet.
ALTER TABLE frame ADD COLUMN incoming INTEGER NOT NULL DEFAULT 0;
CREATE INDEX frame_by_incoming ON frame (shoot_id) WHERE incoming;
-- Programs that frames are opened in.
CREATE TABLE editor (
  name TEXT PRIMARY KEY COLLATE NOCASE,
  command TEXT NOT NULL                -- words as a shell splits them; {files} stands for the paths
);
-- What files were agreed to say before and after an action took marks over from them: undoing it leads back.
CREATE TABLE settled (
  batch_id INTEGER NOT NULL REFERENCES batch ON DELETE CASCADE,
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  path BLOB NOT NULL,
  before TEXT,                         -- JSON: digest, date, marks; NULL: nothing was known
  after TEXT NOT NULL,
  PRIMARY KEY (batch_id, frame_id, path)
);
CREATE INDEX settled_by_frame ON settled (frame_id);
