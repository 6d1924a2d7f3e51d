-- What joins bones beyond their parents: plants of limbs, hitches, and which bone carries the body.

CREATE TABLE plants (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    limb_id TEXT NOT NULL,
    start REAL NOT NULL,
    stop REAL NOT NULL,
    carrier_instance TEXT NOT NULL,
    carrier_id TEXT NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    angle REAL NOT NULL,
    pitch REAL NOT NULL,
    soft_in REAL NOT NULL,
    soft_out REAL NOT NULL
) STRICT;
CREATE INDEX plants_by_scene ON plants (scene_id);

CREATE TABLE hitches (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    owner_id TEXT NOT NULL,
    time REAL NOT NULL,
    carrier_instance TEXT NOT NULL,
    carrier_id TEXT NOT NULL,
    arc INTEGER NOT NULL,
    gravity REAL NOT NULL,
    spin REAL NOT NULL,
    UNIQUE (instance_id, owner_id, time)
) STRICT;
CREATE INDEX hitches_by_scene ON hitches (scene_id);

CREATE TABLE bearings (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    time REAL NOT NULL,
    owner_id TEXT NOT NULL,
    soft REAL NOT NULL,
    UNIQUE (instance_id, time)
) STRICT;
CREATE INDEX bearings_by_scene ON bearings (scene_id);
