-- What a lesson's tools are set to, so that a new start goes on where it was: timer, hold, steps.
CREATE TABLE teaching (
    lesson_id TEXT PRIMARY KEY REFERENCES lesson (id) ON DELETE CASCADE,
    timer TEXT,
    auto_hold INTEGER NOT NULL DEFAULT 0,
    hold TEXT,
    step_id TEXT
) STRICT;

CREATE TABLE step (
    id TEXT PRIMARY KEY,
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    place INTEGER NOT NULL,
    step TEXT NOT NULL
) STRICT;
CREATE INDEX step_by_lesson ON step (lesson_id, place);

-- Kept sheets: straight, clean pictures of a page. Their files lie beside the database.
CREATE TABLE sheet (
    id TEXT PRIMARY KEY,
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    file TEXT NOT NULL,
    made_at REAL NOT NULL,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    width_mm REAL,
    by_itself INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX sheet_by_lesson ON sheet (lesson_id, made_at);
