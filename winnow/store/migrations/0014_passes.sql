-- Passes that the person made, and walks through shoots with them.
CREATE TABLE pass (
  name TEXT PRIMARY KEY COLLATE NOCASE,
  definition TEXT NOT NULL             -- JSON, see core/passes.py
) WITHOUT ROWID;

CREATE TABLE walk (
  id INTEGER PRIMARY KEY,
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  definition TEXT NOT NULL,            -- of its pass as it was when it began
  begun_at TEXT NOT NULL,
  ended_at TEXT,                       -- NULL: it can be gone on with
  frame_id INTEGER REFERENCES frame ON DELETE SET NULL, -- where the person is
  seconds REAL NOT NULL DEFAULT 0,     -- spent on it
  starting INTEGER REFERENCES batch,   -- what frames started as
  taken_back INTEGER REFERENCES batch  -- what took all of it back
);
CREATE INDEX walk_by_shoot ON walk (shoot_id, id);

CREATE TABLE walk_frame (
  walk_id INTEGER NOT NULL REFERENCES walk ON DELETE CASCADE,
  place INTEGER NOT NULL,              -- in its order, from 0
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  seen INTEGER NOT NULL DEFAULT 0,
  started TEXT NOT NULL,               -- the decision that it started as
  PRIMARY KEY (walk_id, frame_id)
) WITHOUT ROWID;
CREATE INDEX walk_frame_by_frame ON walk_frame (frame_id);

ALTER TABLE batch ADD COLUMN walk_id INTEGER REFERENCES walk ON DELETE SET NULL;
CREATE INDEX batch_by_walk ON batch (walk_id, id) WHERE walk_id IS NOT NULL;
