-- The people of a scene that a frame shows: numbers of the shoot, with a space between.
ALTER TABLE frame ADD COLUMN people TEXT NOT NULL DEFAULT '';
