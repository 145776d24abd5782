-- Ink of a lesson, by the page or sheet that it is on.
CREATE TABLE ink (
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    ground TEXT NOT NULL,
    strokes TEXT NOT NULL,
    PRIMARY KEY (lesson_id, ground)
) STRICT;

-- Pages that lay under a camera in a lesson, each with a small picture by which it is known again; `here`: it lies there now.
CREATE TABLE page_seen (
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    ground TEXT NOT NULL,
    device_id TEXT NOT NULL,
    thumb BLOB,
    here INTEGER NOT NULL DEFAULT 0,
    PRIMARY KEY (lesson_id, ground)
) STRICT;
