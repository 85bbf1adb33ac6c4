-- Size of Exif's SubjectArea, upright px; 0: it is a point. Heads are read once more for it.
ALTER TABLE frame ADD COLUMN subject_w REAL;
ALTER TABLE frame ADD COLUMN subject_h REAL;
UPDATE frame SET stage = 0 WHERE problem IS NULL;

-- What matters in a frame, as the person says: a point, px of the upright full picture.
CREATE TABLE point (
  frame_id INTEGER PRIMARY KEY REFERENCES frame ON DELETE CASCADE,
  x REAL NOT NULL,
  y REAL NOT NULL
);
-- Changes with what the evidence says of a frame in its group.
ALTER TABLE frame ADD COLUMN judged TEXT;

-- The point at which evidence was measured too.
ALTER TABLE evidence ADD COLUMN point_x REAL;
ALTER TABLE evidence ADD COLUMN point_y REAL;
