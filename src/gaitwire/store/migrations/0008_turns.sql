-- Puppets that turn round. Steps of history keep their way back: no table that they know is changed.

CREATE TABLE turns (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    time REAL NOT NULL,
    frames REAL NOT NULL
) STRICT;
CREATE INDEX turns_by_scene ON turns (scene_id);
