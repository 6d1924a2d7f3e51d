-- Nothing that is computed changes a frame before its own start. Walks that were laid before stand at their start on the
-- frames before it, as they did. Steps of history keep their way back.

ALTER TABLE gaits ADD COLUMN stands_before INTEGER NOT NULL DEFAULT 0;
UPDATE gaits SET stands_before = 1;

-- Over how many frames what a phrase leaves changes into the next key; NULL: over all of them.
ALTER TABLE phrase_uses ADD COLUMN change_in REAL;
-- On a loop, whether a phrase goes on from its end to its start; those that were laid before do, as they did.
ALTER TABLE phrase_uses ADD COLUMN around INTEGER NOT NULL DEFAULT 0;
UPDATE phrase_uses SET around = 1;

UPDATE step_rows SET before = json_insert(before, '$.stands_before', 1) WHERE table_name = 'gaits' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.stands_before', 1) WHERE table_name = 'gaits' AND after IS NOT NULL;
UPDATE step_rows SET before = json_insert(before, '$.change_in', NULL, '$.around', 1) WHERE table_name = 'phrase_uses' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.change_in', NULL, '$.around', 1) WHERE table_name = 'phrase_uses' AND after IS NOT NULL;
