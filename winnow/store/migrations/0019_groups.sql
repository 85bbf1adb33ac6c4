-- What groups were worked out from: as long as it stays, so do they.
ALTER TABLE shoot ADD COLUMN grouped_as TEXT;
