-- Gait cards of one's own as documents, walks that lie beneath a puppet's keys, what rolls. Steps of history keep their way
-- back: no table that they know is changed.

CREATE TABLE documents_anew (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('puppet', 'scene', 'card', 'shelf')),
    revision INTEGER NOT NULL,
    touched_at REAL NOT NULL
) STRICT;
INSERT INTO documents_anew SELECT id, kind, revision, touched_at FROM documents;
DROP TABLE documents;
ALTER TABLE documents_anew RENAME TO documents;

CREATE TABLE gait_cards (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    settings TEXT NOT NULL,
    measured TEXT
) STRICT;

CREATE TABLE gaits (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    start REAL NOT NULL,
    stop REAL NOT NULL,
    card TEXT NOT NULL,
    travels INTEGER NOT NULL,
    begins REAL NOT NULL,
    slope REAL NOT NULL,
    pace TEXT NOT NULL
) STRICT;
CREATE INDEX gaits_by_scene ON gaits (scene_id);

CREATE TABLE rolls (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    owner_id TEXT NOT NULL,
    radius REAL NOT NULL,
    UNIQUE (instance_id, owner_id)
) STRICT;
CREATE INDEX rolls_by_scene ON rolls (scene_id);
