-- A person's own words on groups lead to a frame, so that they hold beside other cameras too.
CREATE TABLE group_word (
  frame_id INTEGER PRIMARY KEY REFERENCES frame ON DELETE CASCADE,
  goes_with INTEGER REFERENCES frame ON DELETE CASCADE -- in the group of this frame; NULL: begins a group
);
INSERT INTO group_word SELECT frame_id, NULL FROM group_edit WHERE kind = 'split';
INSERT INTO group_word SELECT g.frame_id, (
    SELECT b.id FROM frame AS f JOIN frame AS b ON b.shoot_id = f.shoot_id AND b.position < f.position
    WHERE f.id = g.frame_id ORDER BY b.position DESC LIMIT 1)
  FROM group_edit AS g WHERE g.kind = 'join';
DROP TABLE group_edit;
