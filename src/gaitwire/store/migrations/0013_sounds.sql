-- Sounds laid along a scene. Steps of history keep their way back: no table that they know is changed.

CREATE TABLE sounds (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    name TEXT NOT NULL,
    blob TEXT NOT NULL,
    peaks TEXT NOT NULL,
    rank INTEGER NOT NULL,
    seconds REAL NOT NULL,
    start REAL NOT NULL,
    cut_in REAL NOT NULL,
    cut_out REAL NOT NULL,
    volume REAL NOT NULL,
    muted INTEGER NOT NULL
) STRICT;
CREATE INDEX sounds_by_scene ON sounds (scene_id);
