-- Puppets, scenes, blobs and history. Foreign keys inside a document are checked at commit, so
-- that a step of history can put rows back in any order. References across documents carry none.

CREATE TABLE documents (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('puppet', 'scene', 'shelf')),
    revision INTEGER NOT NULL,
    touched_at REAL NOT NULL
) STRICT;

CREATE TABLE blobs (
    hash TEXT PRIMARY KEY,
    media_type TEXT NOT NULL,
    data BLOB NOT NULL
) STRICT;

CREATE TABLE puppets (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    width REAL NOT NULL,
    height REAL NOT NULL,
    base_x REAL NOT NULL,
    base_y REAL NOT NULL
) STRICT;

CREATE TABLE bones (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL REFERENCES puppets (id) DEFERRABLE INITIALLY DEFERRED,
    name TEXT NOT NULL,
    parent_id TEXT REFERENCES bones (id) DEFERRABLE INITIALLY DEFERRED,
    rank INTEGER NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    angle REAL NOT NULL,
    length REAL NOT NULL,
    region TEXT NOT NULL,
    side TEXT NOT NULL,
    role TEXT NOT NULL,
    hidden INTEGER NOT NULL,
    locked INTEGER NOT NULL,
    keep_volume INTEGER NOT NULL
) STRICT;
CREATE INDEX bones_by_puppet ON bones (puppet_id);

CREATE TABLE parts (
    id TEXT PRIMARY KEY,
    puppet_id TEXT NOT NULL REFERENCES puppets (id) DEFERRABLE INITIALLY DEFERRED,
    bone_id TEXT NOT NULL REFERENCES bones (id) DEFERRABLE INITIALLY DEFERRED,
    name TEXT NOT NULL,
    rank INTEGER NOT NULL,
    art_hash TEXT NOT NULL REFERENCES blobs (hash) DEFERRABLE INITIALLY DEFERRED,
    opacity REAL NOT NULL,
    hidden INTEGER NOT NULL,
    locked INTEGER NOT NULL
) STRICT;
CREATE INDEX parts_by_puppet ON parts (puppet_id);

CREATE TABLE scenes (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    frames INTEGER NOT NULL,
    rate_num INTEGER NOT NULL,
    rate_den INTEGER NOT NULL,
    loop INTEGER NOT NULL,
    first_number INTEGER NOT NULL,
    background TEXT NOT NULL,
    ground REAL
) STRICT;

CREATE TABLE instances (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    puppet_id TEXT NOT NULL,
    name TEXT NOT NULL,
    depth INTEGER NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    scale REAL NOT NULL,
    turned INTEGER NOT NULL,
    hidden INTEGER NOT NULL,
    locked INTEGER NOT NULL,
    backdrop INTEGER NOT NULL
) STRICT;
CREATE INDEX instances_by_scene ON instances (scene_id);

CREATE TABLE channels (
    id TEXT PRIMARY KEY,
    scene_id TEXT NOT NULL REFERENCES scenes (id) DEFERRABLE INITIALLY DEFERRED,
    instance_id TEXT NOT NULL REFERENCES instances (id) DEFERRABLE INITIALLY DEFERRED,
    owner_kind TEXT NOT NULL,
    owner_id TEXT NOT NULL,
    property TEXT NOT NULL,
    UNIQUE (instance_id, owner_id, property)
) STRICT;
CREATE INDEX channels_by_scene ON channels (scene_id);

CREATE TABLE keys (
    id TEXT PRIMARY KEY,
    channel_id TEXT NOT NULL REFERENCES channels (id) DEFERRABLE INITIALLY DEFERRED,
    time REAL NOT NULL,
    value REAL NOT NULL,
    ease TEXT NOT NULL,
    curve TEXT,
    UNIQUE (channel_id, time)
) STRICT;

CREATE TABLE steps (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    label TEXT NOT NULL,
    made_at REAL NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE step_documents (
    step_id INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE,
    document_id TEXT NOT NULL,
    PRIMARY KEY (step_id, document_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX step_documents_by_document ON step_documents (document_id, step_id);

CREATE TABLE step_rows (
    step_id INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE,
    table_name TEXT NOT NULL,
    row_id TEXT NOT NULL,
    before TEXT,
    after TEXT,
    PRIMARY KEY (step_id, table_name, row_id)
) STRICT, WITHOUT ROWID;

-- Which rows each revision of a document changed: a step made, undone or redone.
CREATE TABLE revision_rows (
    document_id TEXT NOT NULL,
    revision INTEGER NOT NULL,
    table_name TEXT NOT NULL,
    row_id TEXT NOT NULL,
    PRIMARY KEY (document_id, revision, table_name, row_id)
) STRICT, WITHOUT ROWID;

INSERT INTO documents VALUES ('shelf', 'shelf', 0, 0);
