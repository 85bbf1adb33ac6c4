-- Requests that were carried out, with the answer where no row holds it.
ALTER TABLE answered RENAME TO completed_request;
ALTER TABLE completed_request ADD COLUMN answer TEXT;

-- A step that writes into a sidecar or a picture is built when it runs. Before that it holds what is needed to build and
-- to verify it; afterwards what is needed to undo it.
ALTER TABLE step ADD COLUMN recipe TEXT;          -- JSON: what is changed in the packet, see handoff/recipe.py
ALTER TABLE step ADD COLUMN previous_digest TEXT; -- SHA-256 of the file that is replaced, NULL: there is none
ALTER TABLE step ADD COLUMN undo BLOB;            -- compressed: what the file held before, see store/undo_bytes.py

-- Plans that were never applied speak of a state that is gone.
DELETE FROM plan WHERE state IN ('made', 'outdated', 'dropped');

UPDATE step SET previous_digest = winnow_sha256(previous) WHERE action = 'write' AND previous IS NOT NULL;
UPDATE step SET digest = coalesce(digest, winnow_sha256(content)) WHERE action = 'write' AND state <> 'waiting';
UPDATE step SET undo = winnow_packed(previous, coalesce(content, x'')) WHERE action = 'write' AND previous IS NOT NULL;
UPDATE step SET undo = winnow_packed(previous, x'') WHERE action = 'embed' AND previous IS NOT NULL;
UPDATE step SET previous = NULL WHERE action IN ('write', 'embed');
UPDATE step SET content = NULL WHERE action IN ('write', 'embed')
  AND (state NOT IN ('waiting', 'begun') OR plan_id IN (SELECT id FROM plan WHERE state IN ('applied', 'reversed')));
UPDATE step SET undo = NULL WHERE plan_id IN (SELECT id FROM plan WHERE state = 'reversed');
DELETE FROM plan_frame WHERE plan_id IN (SELECT id FROM plan WHERE state IN ('applied', 'reversed'));
