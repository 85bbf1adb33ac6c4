-- A browser can show the file itself (an RGB JPEG). Heads are read once more to tell.
ALTER TABLE frame ADD COLUMN as_is INTEGER NOT NULL DEFAULT 0;
UPDATE frame SET stage = 0 WHERE problem IS NULL;

-- A second try at measuring would end the same.
ALTER TABLE evidence ADD COLUMN lasting INTEGER NOT NULL DEFAULT 0;

CREATE INDEX evidence_failed ON evidence (frame_id) WHERE problem IS NOT NULL AND NOT lasting;
CREATE INDEX frame_by_time ON frame (shoot_id, captured_at);

-- What undo and redo act on, without a walk over the journal: the batch on top of each of the two stacks, and for
-- each batch the one that lies below it on the stack that it is on.
ALTER TABLE shoot ADD COLUMN done_top INTEGER REFERENCES batch ON DELETE SET NULL;
ALTER TABLE shoot ADD COLUMN undone_top INTEGER REFERENCES batch ON DELETE SET NULL;
ALTER TABLE shoot ADD COLUMN stacked INTEGER NOT NULL DEFAULT 0; -- 0: written before the stacks were kept
ALTER TABLE batch ADD COLUMN below INTEGER REFERENCES batch ON DELETE SET NULL;

-- Changes that carried an idempotency key: the same request again does nothing twice.
CREATE TABLE answered (
  key TEXT PRIMARY KEY,
  request TEXT NOT NULL,               -- BLAKE2b-128 over address and body
  outcome INTEGER NOT NULL,            -- id of the batch or plan that came of it; 0: nothing changed
  at TEXT NOT NULL
) WITHOUT ROWID;
CREATE INDEX answered_by_age ON answered (at);

CREATE INDEX step_by_target ON step (frame_id, target);

CREATE TABLE setting (
  name TEXT PRIMARY KEY,
  value TEXT NOT NULL
) WITHOUT ROWID;
