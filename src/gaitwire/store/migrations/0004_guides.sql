-- Puppets as guides, and the pose a puppet starts with. Steps of history keep their way back: the
-- images of rows that were written before are given the new columns' values of then.

ALTER TABLE instances ADD COLUMN guide INTEGER NOT NULL DEFAULT 0;
ALTER TABLE instances ADD COLUMN faint REAL NOT NULL DEFAULT 0.5;
ALTER TABLE saved_poses ADD COLUMN starting INTEGER NOT NULL DEFAULT 0;

UPDATE step_rows SET before = json_insert(before, '$.guide', 0, '$.faint', 0.5)
    WHERE table_name = 'instances' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.guide', 0, '$.faint', 0.5)
    WHERE table_name = 'instances' AND after IS NOT NULL;
UPDATE step_rows SET before = json_insert(before, '$.starting', 0)
    WHERE table_name = 'saved_poses' AND before IS NOT NULL;
UPDATE step_rows SET after = json_insert(after, '$.starting', 0)
    WHERE table_name = 'saved_poses' AND after IS NOT NULL;
