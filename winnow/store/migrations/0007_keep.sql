-- The decision 'keep' was called 'pick'.
UPDATE mark SET decision = 'keep' WHERE decision = 'pick';
UPDATE journal SET before = 'keep' WHERE field = 'decision' AND before = 'pick';
UPDATE journal SET after = 'keep' WHERE field = 'decision' AND after = 'pick';
UPDATE base SET decision = 'keep' WHERE decision = 'pick';
UPDATE plan_frame SET decision = 'keep' WHERE decision = 'pick';
UPDATE step SET base = replace(base, '["pick",', '["keep",') WHERE base LIKE '["pick",%';
UPDATE plan SET summary = replace(summary, '"pick"', '"keep"') WHERE summary LIKE '%"pick"%';
UPDATE batch SET title = replace(title, 'picked', 'kept') WHERE title LIKE '%picked%';
