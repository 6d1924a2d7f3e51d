-- Stays, timing charts, repeating channels, exposures, poses, markers and offsets over a span. Steps
-- of history keep their way back: the images of rows that were written before are given the new
-- columns' values of then.

ALTER TABLE scenes ADD COLUMN bounce INTEGER NOT NULL DEFAULT 0;
ALTER TABLE scenes ADD COLUMN move_length INTEGER NOT NULL DEFAULT 0;
ALTER TABLE scenes ADD COLUMN creep INTEGER NOT NULL DEFAULT 12;

ALTER TABLE instances ADD COLUMN exposure INTEGER NOT NULL DEFAULT 1;

ALTER TABLE channels ADD COLUMN repeat TEXT NOT NULL DEFAULT '';
ALTER TABLE channels ADD COLUMN repeat_from REAL;
ALTER TABLE channels ADD COLUMN repeat_to REAL;

ALTER TABLE keys ADD COLUMN chart TEXT NOT NULL DEFAULT '[]';
ALTER TABLE keys ADD COLUMN stay INTEGER NOT NULL DEFAULT 0;
ALTER TABLE keys ADD COLUMN aside INTEGER NOT NULL DEFAULT 0;

CREATE TABLE poses (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    time REAL NOT NULL,
    name TEXT NOT NULL,
    kind TEXT NOT NULL,
    UNIQUE (instance_id, time)
) STRICT;
CREATE INDEX poses_by_scene ON poses (scene_id);

CREATE TABLE markers (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    time REAL NOT NULL,
    name TEXT NOT NULL,
    UNIQUE (scene_id, time)
) STRICT;

CREATE TABLE offsets (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    owner_kind TEXT NOT NULL,
    owner_id TEXT NOT NULL,
    property TEXT NOT NULL,
    start REAL NOT NULL,
    stop REAL NOT NULL,
    soft_in REAL NOT NULL,
    soft_out REAL NOT NULL,
    amount REAL NOT NULL
) STRICT;
CREATE INDEX offsets_by_scene ON offsets (scene_id);

-- Guides laid under or over the stage; their pictures are blobs, by a JSON list of hashes.
CREATE TABLE guides (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    name TEXT NOT NULL,
    pictures TEXT NOT NULL,
    width REAL NOT NULL,
    height REAL NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    scale REAL NOT NULL,
    opacity REAL NOT NULL,
    over INTEGER NOT NULL,
    turned INTEGER NOT NULL,
    start REAL NOT NULL,
    loops INTEGER NOT NULL,
    hidden INTEGER NOT NULL
) STRICT;
CREATE INDEX guides_by_scene ON guides (scene_id);
ALTER TABLE scenes ADD COLUMN grid REAL NOT NULL DEFAULT 0.0;
ALTER TABLE scenes ADD COLUMN snaps INTEGER NOT NULL DEFAULT 0;

-- Poses kept for any scene with their puppet; the clip is JSON.
CREATE TABLE saved_poses (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL,
    name TEXT NOT NULL,
    clip TEXT NOT NULL
) STRICT;
CREATE INDEX saved_poses_by_puppet ON saved_poses (puppet_id);

UPDATE step_rows SET before = json_insert(before, '$.bounce', 0, '$.move_length', 0, '$.creep', 12, '$.grid', 0.0, '$.snaps', 0)
    WHERE table_name = 'scenes' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.bounce', 0, '$.move_length', 0, '$.creep', 12, '$.grid', 0.0, '$.snaps', 0)
    WHERE table_name = 'scenes' AND after IS NOT NULL;
UPDATE step_rows SET before = json_insert(before, '$.exposure', 1)
    WHERE table_name = 'instances' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.exposure', 1)
    WHERE table_name = 'instances' AND after IS NOT NULL;
UPDATE step_rows SET before = json_insert(before, '$.repeat', '', '$.repeat_from', NULL, '$.repeat_to', NULL)
    WHERE table_name = 'channels' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.repeat', '', '$.repeat_from', NULL, '$.repeat_to', NULL)
    WHERE table_name = 'channels' AND after IS NOT NULL;
UPDATE step_rows SET before = json_insert(before, '$.chart', '[]', '$.stay', 0, '$.aside', 0)
    WHERE table_name = 'keys' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.chart', '[]', '$.stay', 0, '$.aside', 0)
    WHERE table_name = 'keys' AND after IS NOT NULL;
