-- Drawings that are smears; in the images that steps of history keep, none is.

ALTER TABLE replacements ADD COLUMN smear INTEGER NOT NULL DEFAULT 0;
UPDATE step_rows SET before = json_insert(before, '$.smear', 0) WHERE table_name = 'replacements' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.smear', 0) WHERE table_name = 'replacements' AND after IS NOT NULL;
