-- Shoots and the folders they are made of.
CREATE TABLE shoot (
  id INTEGER PRIMARY KEY,
  title TEXT NOT NULL,
  created_at TEXT NOT NULL,
  opened_at TEXT NOT NULL,
  revision INTEGER NOT NULL DEFAULT 0, -- grows with every change of any of its frames
  scan_note TEXT,                      -- what the last scan could not enter, for a person
  hidden INTEGER NOT NULL DEFAULT 0    -- taken off the list; opening its folder brings it back
);

CREATE TABLE folder (
  id INTEGER PRIMARY KEY,
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  path BLOB NOT NULL UNIQUE
);

-- One exposure. Capture data and size are NULL until its head has been read.
CREATE TABLE frame (
  id INTEGER PRIMARY KEY,
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  folder_id INTEGER NOT NULL REFERENCES folder ON DELETE CASCADE,
  name TEXT NOT NULL,                  -- path of the shown file below its folder, for people
  position INTEGER NOT NULL DEFAULT 0, -- place in capture order, from 0
  scene INTEGER NOT NULL DEFAULT 0,
  frame_group INTEGER NOT NULL DEFAULT 0,
  captured_at TEXT,
  camera TEXT, serial TEXT, lens TEXT,
  focal_mm REAL, aperture REAL, shutter_s REAL, iso INTEGER, bias_ev REAL,
  width INTEGER, height INTEGER,       -- upright
  version TEXT NOT NULL,               -- changes when the content of the shown file changes
  stage INTEGER NOT NULL DEFAULT 0,    -- 0 listed, 1 head read, 2 thumbnail, 3 preview
  problem TEXT,                        -- why the picture cannot be shown
  note TEXT,                           -- damage that did not keep it from being shown
  marks_note TEXT,                     -- marks on disk that could not be read or that differ
  place TEXT NOT NULL DEFAULT 'shoot', -- shoot, held (holding folder), moved (handed on), missing
  revision INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX frame_by_position ON frame (shoot_id, place, position);
CREATE INDEX frame_by_revision ON frame (shoot_id, revision);

CREATE TABLE file (
  id INTEGER PRIMARY KEY,
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  path BLOB NOT NULL,                  -- absolute
  role TEXT NOT NULL,                  -- picture, raw, sidecar
  size INTEGER NOT NULL,
  mtime_ns INTEGER NOT NULL
);
CREATE INDEX file_by_frame ON file (frame_id);
CREATE INDEX file_by_path ON file (path);

-- Marks now, and how they came to be. The journal only grows; `mark` can be rebuilt from it.
CREATE TABLE mark (
  frame_id INTEGER PRIMARY KEY REFERENCES frame ON DELETE CASCADE,
  decision TEXT NOT NULL,
  rating INTEGER NOT NULL,
  label TEXT
);

CREATE TABLE batch (
  id INTEGER PRIMARY KEY,
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  kind TEXT NOT NULL,                  -- mark, undo, redo, import
  reverts INTEGER REFERENCES batch,
  actor TEXT NOT NULL,                 -- who: person, sidecar, embedded
  at TEXT NOT NULL,
  title TEXT NOT NULL                  -- what was done, in words
);
CREATE INDEX batch_by_shoot ON batch (shoot_id, id);

CREATE TABLE journal (
  id INTEGER PRIMARY KEY,
  batch_id INTEGER NOT NULL REFERENCES batch ON DELETE CASCADE,
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  field TEXT NOT NULL,
  before,                              -- no type: a label '5' must not become a number
  after
);
CREATE INDEX journal_by_batch ON journal (batch_id);
CREATE INDEX journal_by_frame ON journal (frame_id);

-- Plans: everything that touches files, step by step.
CREATE TABLE plan (
  id INTEGER PRIMARY KEY,
  shoot_id INTEGER NOT NULL REFERENCES shoot ON DELETE CASCADE,
  kind TEXT NOT NULL,                  -- copy-keepers, move-keepers, hold-rejects, bring-back, write-sidecars
  state TEXT NOT NULL,                 -- made, applying, stopped, applied, reversing,
                                       -- reversal-stopped, reversed, dropped
  target BLOB,                         -- folder that files go to
  summary TEXT NOT NULL,               -- JSON: counts and conflicts as shown
  made_at TEXT NOT NULL,
  ended_at TEXT,
  error TEXT
);
CREATE INDEX plan_by_shoot ON plan (shoot_id, id);

CREATE TABLE step (
  id INTEGER PRIMARY KEY,
  plan_id INTEGER NOT NULL REFERENCES plan ON DELETE CASCADE,
  frame_id INTEGER NOT NULL REFERENCES frame ON DELETE CASCADE,
  action TEXT NOT NULL,                -- copy, move, write
  source BLOB,                         -- file read; NULL for a sidecar that is new
  target BLOB NOT NULL,                -- file written
  size INTEGER NOT NULL,
  content BLOB,                        -- write: what is to stand in the file
  previous BLOB,                       -- write: what stood there before, NULL: nothing
  digest TEXT,                         -- SHA-256 of what was put at the target
  mtime_ns INTEGER,                    -- of the source, kept at the target
  state TEXT NOT NULL DEFAULT 'waiting', -- waiting, begun, done, reversing, reversed, left
  reason TEXT                          -- why it was left
);
CREATE INDEX step_by_plan ON step (plan_id, id);
