-- A puppet may turn round in stages: head, trunk, leg after leg. Turns that were made before go on as they did. Steps
-- of history keep their way back.

ALTER TABLE turns ADD COLUMN manner TEXT NOT NULL DEFAULT 'whole';

UPDATE step_rows SET before = json_insert(before, '$.manner', 'whole') WHERE table_name = 'turns' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.manner', 'whole') WHERE table_name = 'turns' AND after IS NOT NULL;
