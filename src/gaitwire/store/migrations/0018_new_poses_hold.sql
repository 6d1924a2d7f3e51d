-- New poses of a puppet may hold until they are timed. Steps of history keep their way back.

ALTER TABLE instances ADD COLUMN holds INTEGER NOT NULL DEFAULT 0;

UPDATE step_rows SET before = json_insert(before, '$.holds', 0) WHERE table_name = 'instances' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.holds', 0) WHERE table_name = 'instances' AND after IS NOT NULL;
