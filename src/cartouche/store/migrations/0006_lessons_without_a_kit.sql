-- A lesson may have no kit yet, and a deleted one can be brought back until the next start.
CREATE TABLE lesson_new (
    id TEXT PRIMARY KEY,
    kit_id TEXT REFERENCES kit (id) ON DELETE SET NULL,
    title TEXT NOT NULL,
    class_name TEXT NOT NULL,
    starts TEXT NOT NULL,
    plate_id TEXT,
    plates_id INTEGER REFERENCES plates_revision (id),
    deleted INTEGER NOT NULL DEFAULT 0
);
INSERT INTO lesson_new (id, kit_id, title, class_name, starts, plate_id, plates_id)
    SELECT id, kit_id, title, class_name, starts, plate_id, plates_id FROM lesson;
DROP TABLE lesson;
ALTER TABLE lesson_new RENAME TO lesson;
