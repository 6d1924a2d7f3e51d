-- A segment may play part of its easing, so that a bead put into its course leaves that as it is. Steps of history
-- keep their way back: the images of keys that were written before are given the new column's value of then.

ALTER TABLE keys ADD COLUMN excerpt TEXT;

UPDATE step_rows SET before = json_insert(before, '$.excerpt', NULL) WHERE table_name = 'keys' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.excerpt', NULL) WHERE table_name = 'keys' AND after IS NOT NULL;
