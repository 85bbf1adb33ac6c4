-- A frame is an exposure, known by its content and by what the camera says of it, wherever its file lies.
ALTER TABLE frame ADD COLUMN content TEXT;   -- BLAKE2b-128 over size, first and last 64 KiB of the shown file; NULL: not read yet
ALTER TABLE frame ADD COLUMN picture TEXT;   -- the same over what the pixels come from, tags left out
ALTER TABLE frame ADD COLUMN digest TEXT;    -- BLAKE2b-128 over the whole shown file, once it was decoded
ALTER TABLE frame ADD COLUMN image_id TEXT;  -- ImageUniqueID or image number, as the camera says
ALTER TABLE frame ADD COLUMN copies INTEGER NOT NULL DEFAULT 0;   -- how many other frames of the shoot have the same content
ALTER TABLE frame ADD COLUMN problem_kind TEXT;  -- lasting, passing (tried again at the next opening), crashed
ALTER TABLE frame ADD COLUMN crashes INTEGER NOT NULL DEFAULT 0; -- how often it made a worker crash
CREATE INDEX frame_by_content ON frame (shoot_id, content);
CREATE INDEX frame_by_version ON frame (version);

-- Heads are read once more for what is new in them. Versions stay, and with them previews and evidence.
UPDATE frame SET stage = 0 WHERE problem IS NULL;
UPDATE frame SET problem_kind = 'lasting' WHERE problem IS NOT NULL;

ALTER TABLE folder ADD COLUMN mount BLOB; -- mount point that it lay on when it was last listed

-- What a file said of a frame's marks when both sides last agreed, property by property.
CREATE TABLE base (
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  path BLOB NOT NULL,                  -- sidecar, or the picture itself for marks inside it
  digest TEXT NOT NULL,                -- BLAKE2b-128 of the packet as last read or written
  at TEXT NOT NULL,                    -- date of the file then, ISO 8601, UTC
  decision TEXT NOT NULL,
  rating INTEGER NOT NULL,
  label TEXT,
  PRIMARY KEY (frame_id, path)
);

-- Marks that a plan rests on: applied later, it is held against the marks as they are then.
CREATE TABLE plan_frame (
  plan_id INTEGER NOT NULL REFERENCES plan ON DELETE CASCADE,
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  decision TEXT NOT NULL,
  rating INTEGER NOT NULL,
  label TEXT,
  PRIMARY KEY (plan_id, frame_id)
);
ALTER TABLE plan ADD COLUMN anchors TEXT NOT NULL DEFAULT '[]'; -- JSON: folders that must be reachable, with their devices
ALTER TABLE plan ADD COLUMN wish TEXT;                          -- JSON: what was asked for, to make it anew
ALTER TABLE step ADD COLUMN base TEXT; -- write: JSON of the base that the file had before, to go back to
