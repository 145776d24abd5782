-- Every settled list of plates of a lesson, oldest first; lesson.plates_id is the one in force, later ones can be redone.
CREATE TABLE plates_revision (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    plates TEXT NOT NULL
);
CREATE INDEX plates_revision_lesson ON plates_revision (lesson_id, id);

ALTER TABLE lesson ADD COLUMN plates_id INTEGER REFERENCES plates_revision (id);

INSERT INTO plates_revision (lesson_id, plates)
SELECT lesson_id, json_group_array(json_object('id', id, 'name', name, 'places', json(places)))
FROM (SELECT * FROM plate ORDER BY lesson_id, position)
GROUP BY lesson_id;

UPDATE lesson SET plates_id = (SELECT r.id FROM plates_revision r WHERE r.lesson_id = lesson.id);

DROP TABLE plate;
