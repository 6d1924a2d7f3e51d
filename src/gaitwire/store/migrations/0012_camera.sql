-- How much of a camera's way parts and puppets take part in, and shadows on the ground; in the images that steps of
-- history keep, as before: wholly, and none.

ALTER TABLE parts ADD COLUMN distance REAL NOT NULL DEFAULT 1.0;
ALTER TABLE parts ADD COLUMN shadow REAL NOT NULL DEFAULT 0.0;
ALTER TABLE instances ADD COLUMN distance REAL NOT NULL DEFAULT 1.0;
UPDATE step_rows SET before = json_insert(before, '$.distance', 1.0, '$.shadow', 0.0)
    WHERE table_name = 'parts' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.distance', 1.0, '$.shadow', 0.0)
    WHERE table_name = 'parts' AND after IS NOT NULL;
UPDATE step_rows SET before = json_insert(before, '$.distance', 1.0) WHERE table_name = 'instances' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.distance', 1.0) WHERE table_name = 'instances' AND after IS NOT NULL;
