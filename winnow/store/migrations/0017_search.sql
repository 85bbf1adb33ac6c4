-- What frames of all shoots are found by. The rowid is the frame's id; brought up to date a shoot at a time, behind the marks.
CREATE VIRTUAL TABLE frame_text USING fts5 (
  name, words, label, camera, taken, shoot,
  tokenize = "unicode61 remove_diacritics 2", prefix = '2 3 4'
);
CREATE TRIGGER frame_text_forgets AFTER DELETE ON frame BEGIN
  DELETE FROM frame_text WHERE rowid = old.id;
END;
-- Up to which revision of a shoot, and with which version of the labels, that was done.
CREATE TABLE searched (
  shoot_id INTEGER PRIMARY KEY REFERENCES shoot ON DELETE CASCADE,
  revision INTEGER NOT NULL,
  labels INTEGER NOT NULL
);
