-- Soft parts, pins, limbs and replacements. Steps of history keep their way back: the images of
-- rows that were written before are given the new columns' values of then.

ALTER TABLE bones ADD COLUMN tag TEXT NOT NULL DEFAULT '';
ALTER TABLE bones ADD COLUMN low REAL;
ALTER TABLE bones ADD COLUMN high REAL;
ALTER TABLE bones ADD COLUMN reach REAL NOT NULL DEFAULT 1.0;

ALTER TABLE parts ADD COLUMN shows INTEGER NOT NULL DEFAULT 0;
ALTER TABLE parts ADD COLUMN soft INTEGER NOT NULL DEFAULT 0;
ALTER TABLE parts ADD COLUMN grain REAL NOT NULL DEFAULT 0.0;
ALTER TABLE parts ADD COLUMN bends_with TEXT NOT NULL DEFAULT '[]';
ALTER TABLE parts ADD COLUMN came_as TEXT NOT NULL DEFAULT '';
ALTER TABLE parts ADD COLUMN weights_hash TEXT NOT NULL DEFAULT '';

CREATE TABLE replacements (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL REFERENCES puppets (id) DEFERRABLE INITIALLY DEFERRED,
    part_id TEXT NOT NULL REFERENCES parts (id) DEFERRABLE INITIALLY DEFERRED,
    number INTEGER NOT NULL,
    name TEXT NOT NULL,
    rank INTEGER NOT NULL,
    art_hash TEXT NOT NULL REFERENCES blobs (hash) DEFERRABLE INITIALLY DEFERRED,
    UNIQUE (part_id, number)
) STRICT;
CREATE INDEX replacements_by_puppet ON replacements (puppet_id);

CREATE TABLE pins (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL REFERENCES puppets (id) DEFERRABLE INITIALLY DEFERRED,
    part_id TEXT NOT NULL REFERENCES parts (id) DEFERRABLE INITIALLY DEFERRED,
    name TEXT NOT NULL,
    kind TEXT NOT NULL,
    bone_id TEXT REFERENCES bones (id) DEFERRABLE INITIALLY DEFERRED,
    rank INTEGER NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    holds_turn INTEGER NOT NULL,
    stiffness REAL NOT NULL,
    hidden INTEGER NOT NULL
) STRICT;
CREATE INDEX pins_by_puppet ON pins (puppet_id);

CREATE TABLE limbs (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL REFERENCES puppets (id) DEFERRABLE INITIALLY DEFERRED,
    name TEXT NOT NULL,
    tip_id TEXT NOT NULL REFERENCES bones (id) DEFERRABLE INITIALLY DEFERRED,
    whole INTEGER NOT NULL,
    count INTEGER NOT NULL,
    bend INTEGER NOT NULL,
    stretch REAL NOT NULL,
    softness REAL NOT NULL
) STRICT;
CREATE INDEX limbs_by_puppet ON limbs (puppet_id);

UPDATE step_rows SET before = json_insert(before, '$.tag', '', '$.low', NULL, '$.high', NULL, '$.reach', 1.0)
    WHERE table_name = 'bones' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.tag', '', '$.low', NULL, '$.high', NULL, '$.reach', 1.0)
    WHERE table_name = 'bones' AND after IS NOT NULL;
UPDATE step_rows
    SET before = json_insert(before, '$.shows', 0, '$.soft', 0, '$.grain', 0.0, '$.bends_with', '[]', '$.came_as', '',
        '$.weights_hash', '')
    WHERE table_name = 'parts' AND before IS NOT NULL;
UPDATE step_rows
    SET after = json_insert(after, '$.shows', 0, '$.soft', 0, '$.grain', 0.0, '$.bends_with', '[]', '$.came_as', '',
        '$.weights_hash', '')
    WHERE table_name = 'parts' AND after IS NOT NULL;
