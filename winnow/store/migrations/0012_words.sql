-- Words on frames, in the forms of core/words.py, and what files said of them when both sides last agreed.
ALTER TABLE mark ADD COLUMN caption TEXT;
ALTER TABLE mark ADD COLUMN headline TEXT;
ALTER TABLE mark ADD COLUMN keywords TEXT;
ALTER TABLE mark ADD COLUMN creator TEXT;
ALTER TABLE mark ADD COLUMN copyright TEXT;
ALTER TABLE base ADD COLUMN caption TEXT;
ALTER TABLE base ADD COLUMN headline TEXT;
ALTER TABLE base ADD COLUMN keywords TEXT;
ALTER TABLE base ADD COLUMN creator TEXT;
ALTER TABLE base ADD COLUMN copyright TEXT;

-- Heads are read once more for the words in them and in their sidecars.
UPDATE frame SET stage = 0 WHERE problem IS NULL;

-- Marks that a plan rests on: all of them.
ALTER TABLE plan_frame ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;
ALTER TABLE plan_frame ADD COLUMN caption TEXT;
ALTER TABLE plan_frame ADD COLUMN headline TEXT;
ALTER TABLE plan_frame ADD COLUMN keywords TEXT;
ALTER TABLE plan_frame ADD COLUMN creator TEXT;
ALTER TABLE plan_frame ADD COLUMN copyright TEXT;

CREATE TABLE template (
  name TEXT PRIMARY KEY,
  content TEXT NOT NULL -- JSON
) WITHOUT ROWID;
