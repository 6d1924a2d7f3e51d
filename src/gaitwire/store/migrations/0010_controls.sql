-- Bend fixes, facing pads and gauges. Steps of history keep their way back: no table that they know is changed.

CREATE TABLE controls (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL REFERENCES puppets (id) DEFERRABLE INITIALLY DEFERRED,
    kind TEXT NOT NULL CHECK (kind IN ('fix', 'pad', 'gauge')),
    name TEXT NOT NULL,
    rank INTEGER NOT NULL,
    bone_id TEXT REFERENCES bones (id) DEFERRABLE INITIALLY DEFERRED,
    wraps INTEGER NOT NULL
) STRICT;
CREATE INDEX controls_by_puppet ON controls (puppet_id);

-- `rows` and `reshapes` name bones, pins and parts without foreign keys: a row whose owner is gone sleeps.
CREATE TABLE entries (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL REFERENCES puppets (id) DEFERRABLE INITIALLY DEFERRED,
    control_id TEXT NOT NULL REFERENCES controls (id) DEFERRABLE INITIALLY DEFERRED,
    name TEXT NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    rows TEXT NOT NULL,
    reshapes TEXT NOT NULL
) STRICT;
CREATE INDEX entries_by_puppet ON entries (puppet_id);
