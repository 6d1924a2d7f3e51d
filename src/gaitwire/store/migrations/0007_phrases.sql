-- Phrases as documents, and their uses on puppets of a scene. Steps of history keep their way back: no table that they
-- know is changed.

CREATE TABLE documents_anew (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('puppet', 'scene', 'card', 'phrase', 'shelf')),
    revision INTEGER NOT NULL,
    touched_at REAL NOT NULL
) STRICT;
INSERT INTO documents_anew SELECT id, kind, revision, touched_at FROM documents;
DROP TABLE documents;
ALTER TABLE documents_anew RENAME TO documents;

CREATE TABLE phrases (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    tags TEXT NOT NULL,
    view TEXT NOT NULL,
    length REAL NOT NULL,
    rows TEXT NOT NULL,
    counts_from TEXT NOT NULL,
    goes_on INTEGER NOT NULL,
    still REAL NOT NULL,
    size REAL NOT NULL,
    seat REAL NOT NULL,
    facing INTEGER NOT NULL
) STRICT;

-- `source` names what a use is tied to; no foreign key: a phrase that is missing sleeps, and wakes when it is back.
CREATE TABLE phrase_uses (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    source TEXT NOT NULL,
    phrase TEXT,
    settings TEXT NOT NULL,
    start REAL NOT NULL,
    begins REAL NOT NULL,
    ends REAL,
    pace REAL NOT NULL,
    amount REAL NOT NULL,
    repeats INTEGER NOT NULL,
    fade_in REAL NOT NULL,
    fade_out REAL NOT NULL,
    goes_on INTEGER NOT NULL,
    still REAL NOT NULL,
    other_side INTEGER NOT NULL
) STRICT;
CREATE INDEX phrase_uses_by_scene ON phrase_uses (scene_id);
