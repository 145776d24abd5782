-- A lesson may have a date, repeat weekly, or take place at the times of a calendar.
ALTER TABLE lesson ADD COLUMN day TEXT;
ALTER TABLE lesson ADD COLUMN weekly INTEGER NOT NULL DEFAULT 0;
ALTER TABLE lesson ADD COLUMN minutes INTEGER NOT NULL DEFAULT 45;
ALTER TABLE lesson ADD COLUMN calendar_uid TEXT;

CREATE TABLE lesson_time (
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    day TEXT NOT NULL,
    starts TEXT NOT NULL,
    minutes INTEGER NOT NULL,
    PRIMARY KEY (lesson_id, day, starts)
) STRICT;

-- The page that was tried for a lesson: what each audience would read.
CREATE TABLE trial (
    lesson_id TEXT PRIMARY KEY REFERENCES lesson (id) ON DELETE CASCADE,
    found TEXT NOT NULL
) STRICT;
