-- The tip of a limb may keep its angle against the ground. Limbs that were made before do not. Steps of history keep
-- their way back.

ALTER TABLE limbs ADD COLUMN steady INTEGER NOT NULL DEFAULT 0;

UPDATE step_rows SET before = json_insert(before, '$.steady', 0) WHERE table_name = 'limbs' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.steady', 0) WHERE table_name = 'limbs' AND after IS NOT NULL;
