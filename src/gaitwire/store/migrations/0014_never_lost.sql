-- Nothing is done twice, nothing grows without end. Steps of history stay as they are.

-- Names that pages gave to their gestures: one that comes again, because its answer was lost, is known.
CREATE TABLE gestures (
    name TEXT PRIMARY KEY,
    made_at REAL NOT NULL
) STRICT, WITHOUT ROWID;

-- Rows changed by revisions up to the floor are not known any more: an edit that expects less is refused.
ALTER TABLE documents ADD COLUMN floor INTEGER NOT NULL DEFAULT 0;
