-- What filters ask for, and labels that the person defines.
ALTER TABLE frame ADD COLUMN sigma REAL;               -- blur at the subject, px
ALTER TABLE frame ADD COLUMN light REAL;               -- stops to the group
ALTER TABLE frame ADD COLUMN looks TEXT NOT NULL DEFAULT ''; -- of its faces: open, closed, away
ALTER TABLE frame ADD COLUMN edited INTEGER NOT NULL DEFAULT 0; -- a sidecar holds settings of an editing program

UPDATE frame SET sigma = (
  SELECT json_extract(judgement, '$.subject.sigma_px') FROM evidence WHERE evidence.frame_id = frame.id);
UPDATE frame SET light = (
  SELECT json_extract(judgement, '$.group_stops') FROM evidence WHERE evidence.frame_id = frame.id);
UPDATE frame SET looks = coalesce((
  SELECT trim(
    CASE WHEN sum(json_extract(eye.value, '$.state') = 'closed') > 0 THEN 'closed '
         WHEN sum(json_extract(eye.value, '$.state') <> 'unknown') > 0 THEN 'open ' ELSE '' END
    || CASE WHEN sum(NOT json_extract(face.value, '$.facing')) > 0 THEN 'away' ELSE '' END)
  FROM evidence, json_each(evidence.judgement, '$.faces') AS face, json_each(face.value, '$.eyes') AS eye
  WHERE evidence.frame_id = frame.id), '');

-- Every version of the labels that there ever was; the last one counts, none: those Winnow begins with.
CREATE TABLE label_set (
  id INTEGER PRIMARY KEY AUTOINCREMENT, -- no number comes twice
  at TEXT NOT NULL,
  said TEXT NOT NULL,    -- what was changed, in words
  content TEXT NOT NULL  -- JSON
);

CREATE TABLE named_filter (
  id INTEGER PRIMARY KEY,
  shoot_id INTEGER REFERENCES shoot ON DELETE CASCADE, -- NULL: for all shoots
  name TEXT NOT NULL,
  sentence TEXT NOT NULL
);
CREATE UNIQUE INDEX named_filter_by_name ON named_filter (coalesce(shoot_id, 0), name);
