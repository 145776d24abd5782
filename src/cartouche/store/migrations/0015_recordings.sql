-- Recordings of lessons, their files in pieces, and what happened in them. Files lie beside the database in `recordings/`.
CREATE TABLE recording (
    id TEXT PRIMARY KEY,
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    made_at REAL NOT NULL,
    state TEXT NOT NULL
) STRICT;
CREATE INDEX recording_by_lesson ON recording (lesson_id, made_at);

CREATE TABLE piece (
    recording_id TEXT NOT NULL REFERENCES recording (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    file TEXT NOT NULL,
    at_s REAL NOT NULL,
    length_s REAL NOT NULL DEFAULT 0,
    PRIMARY KEY (recording_id, number)
) STRICT;

CREATE TABLE mark (
    recording_id TEXT NOT NULL REFERENCES recording (id) ON DELETE CASCADE,
    at_s REAL NOT NULL,
    kind TEXT NOT NULL,
    title TEXT NOT NULL,
    ref TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX mark_by_recording ON mark (recording_id, at_s);

-- A sheet's place among the others, the words that were read on it, and whether it was put away.
ALTER TABLE sheet ADD COLUMN place REAL NOT NULL DEFAULT 0;
ALTER TABLE sheet ADD COLUMN words TEXT NOT NULL DEFAULT '';
ALTER TABLE sheet ADD COLUMN away INTEGER NOT NULL DEFAULT 0;
UPDATE sheet SET place = made_at;
