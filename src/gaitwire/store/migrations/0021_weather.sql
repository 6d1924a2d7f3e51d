-- What pulls and blows in a scene, for what is loose there. Steps of history keep their way back.

ALTER TABLE scenes ADD COLUMN fall REAL;
ALTER TABLE scenes ADD COLUMN wind REAL NOT NULL DEFAULT 0.0;
ALTER TABLE scenes ADD COLUMN wind_turn REAL NOT NULL DEFAULT 0.0;
ALTER TABLE scenes ADD COLUMN gusts REAL NOT NULL DEFAULT 0.4;

UPDATE step_rows SET before = json_insert(before, '$.fall', NULL, '$.wind', 0.0, '$.wind_turn', 0.0, '$.gusts', 0.4)
    WHERE table_name = 'scenes' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.fall', NULL, '$.wind', 0.0, '$.wind_turn', 0.0, '$.gusts', 0.4)
    WHERE table_name = 'scenes' AND after IS NOT NULL;
