-- From where a puppet is drawn; in the images that steps of history keep, from the side.

ALTER TABLE puppets ADD COLUMN view TEXT NOT NULL DEFAULT 'side';
UPDATE step_rows SET before = json_insert(before, '$.view', 'side') WHERE table_name = 'puppets' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.view', 'side') WHERE table_name = 'puppets' AND after IS NOT NULL;
