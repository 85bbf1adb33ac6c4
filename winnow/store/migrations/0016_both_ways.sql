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
-- Proof sets, and the answers that came back.
CREATE TABLE proof (
  id TEXT PRIMARY KEY,                 -- stands in its pages, and in answers
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  title TEXT NOT NULL,
  made_at TEXT NOT NULL
) WITHOUT ROWID;
CREATE INDEX proof_by_shoot ON proof (shoot_id);
CREATE TABLE proof_frame (
  proof_id TEXT NOT NULL REFERENCES proof ON DELETE CASCADE,
  number INTEGER NOT NULL,
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  name TEXT NOT NULL,                  -- as the client saw it
  PRIMARY KEY (proof_id, number)
) WITHOUT ROWID;
CREATE INDEX proof_frame_by_frame ON proof_frame (frame_id);
CREATE TABLE answer (
  id INTEGER PRIMARY KEY,
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  client TEXT NOT NULL,
  at TEXT NOT NULL,
  content TEXT NOT NULL                -- JSON: [frame, verdict, comment]
);
CREATE INDEX answer_by_shoot ON answer (shoot_id, id);
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
