-- Pictures that the person turned: shown that way, and said in sidecars. Files stay as they are.
ALTER TABLE frame ADD COLUMN orientation INTEGER;                 -- Exif code; NULL before its head was read
ALTER TABLE mark ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;      -- quarter turns clockwise, 0 to 3
ALTER TABLE base ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;
