-- Who watches a class, by its name; the teacher's own words and screens.
CREATE TABLE viewers (
    class_name TEXT PRIMARY KEY,
    declared TEXT NOT NULL
) STRICT;

-- Boards and computers that watch by an invitation, view only.
CREATE TABLE watcher (
    id TEXT PRIMARY KEY,
    token_hash TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    address TEXT NOT NULL,
    awaited_until REAL NOT NULL
) STRICT;
