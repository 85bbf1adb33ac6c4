-- Files that come from a card belong to no frame yet: a step may have none.
CREATE TABLE step_new (
  id INTEGER PRIMARY KEY,
  plan_id INTEGER NOT NULL REFERENCES plan ON DELETE CASCADE,
  frame_id INTEGER REFERENCES frame ON DELETE CASCADE,
  action TEXT NOT NULL,                -- copy, move, link, write
  source BLOB,                         -- file read; NULL for a sidecar that is new
  target BLOB NOT NULL,                -- file written
  size INTEGER NOT NULL,
  content BLOB,                        -- write: what is to stand in the file
  previous BLOB,                       -- write: what stood there before, NULL: nothing
  digest TEXT,                         -- SHA-256 of what was put at the target
  mtime_ns INTEGER,                    -- of the source, kept at the target
  state TEXT NOT NULL DEFAULT 'waiting', -- waiting, begun, copied, done, reversing, reversed, left, skipped
  reason TEXT,                         -- why it was left, or where it is already
  base TEXT                            -- write: JSON of the base that the file had before, to go back to
);
INSERT INTO step_new
  SELECT id, plan_id, frame_id, action, source, target, size, content, previous, digest, mtime_ns, state, reason, base
  FROM step;
DROP TABLE step;
ALTER TABLE step_new RENAME TO step;
CREATE INDEX step_by_plan ON step (plan_id, id);
CREATE INDEX step_by_target ON step (frame_id, target);

-- Patterns of file names that a person gave a name.
CREATE TABLE name_pattern (
  name TEXT PRIMARY KEY COLLATE NOCASE,
  naming TEXT NOT NULL                 -- JSON: pattern, free words, how the counter goes
);
