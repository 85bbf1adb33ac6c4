-- What was measured on each frame, and what that says beside the other frames of its group.
CREATE TABLE evidence (
  frame_id INTEGER PRIMARY KEY REFERENCES frame ON DELETE CASCADE,
  version TEXT NOT NULL,               -- content version of the picture that was measured
  method INTEGER NOT NULL,             -- version of the measurements (core/evidence.VERSION)
  content TEXT,                        -- JSON; NULL where measuring failed
  descriptor BLOB,                     -- what frames are compared by
  problem TEXT,                        -- why measuring failed
  judged_as TEXT,                      -- group that the judgement was made in: its frames and their versions
  judgement TEXT                       -- JSON
);

ALTER TABLE frame ADD COLUMN bracket INTEGER NOT NULL DEFAULT 0; -- its group is an exposure bracket
ALTER TABLE frame ADD COLUMN lead INTEGER NOT NULL DEFAULT 0;    -- the evidence ranks it first in its group
ALTER TABLE frame ADD COLUMN faces INTEGER;                      -- how many; NULL: not measured yet
ALTER TABLE frame ADD COLUMN warnings TEXT NOT NULL DEFAULT '';  -- codes: missed soft shake eyes under over black
ALTER TABLE frame ADD COLUMN subject_x REAL;                     -- middle of Exif's SubjectArea, upright px
ALTER TABLE frame ADD COLUMN subject_y REAL;

-- A person's own splits and joins of groups. They outlive every new measurement.
CREATE TABLE group_edit (
  frame_id INTEGER PRIMARY KEY REFERENCES frame ON DELETE CASCADE,
  kind TEXT NOT NULL                   -- split: starts a group; join: goes with the frame before it
);

-- How far the clock of a camera is ahead of the others in a shoot, as the person says.
CREATE TABLE clock (
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  camera TEXT NOT NULL,                -- serial number, or name where there is none
  ahead_s REAL NOT NULL,
  PRIMARY KEY (shoot_id, camera)
);
