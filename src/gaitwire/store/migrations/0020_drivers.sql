-- What leads bones, pins, tips, pads and gauges besides their keys. Steps of history keep their way back.

CREATE TABLE drivers (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    owner_kind TEXT NOT NULL,
    owner_id TEXT NOT NULL,
    settings TEXT NOT NULL
) STRICT;
CREATE INDEX drivers_by_scene ON drivers (scene_id);
