CREATE TABLE kit (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    room TEXT NOT NULL
);

CREATE TABLE device (
    id TEXT PRIMARY KEY,
    kit_id TEXT NOT NULL REFERENCES kit (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('bench', 'camera')),
    source TEXT NOT NULL,
    label TEXT NOT NULL,
    name TEXT NOT NULL,
    rig TEXT NOT NULL,
    serves TEXT CHECK (serves IN ('page', 'face')),
    revision_id INTEGER REFERENCES chain_revision (id)
);

-- Every settled chain of a device, oldest first; device.revision_id is the one in force, later ones can be redone.
CREATE TABLE chain_revision (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    device_id TEXT NOT NULL REFERENCES device (id) ON DELETE CASCADE,
    chain TEXT NOT NULL
);
CREATE INDEX chain_revision_device ON chain_revision (device_id, id);

CREATE TABLE lesson (
    id TEXT PRIMARY KEY,
    kit_id TEXT NOT NULL REFERENCES kit (id),
    title TEXT NOT NULL,
    class_name TEXT NOT NULL,
    starts TEXT NOT NULL,
    plate_id TEXT
);

CREATE TABLE plate (
    id TEXT NOT NULL,
    lesson_id TEXT NOT NULL REFERENCES lesson (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    places TEXT NOT NULL,
    PRIMARY KEY (lesson_id, id)
);

CREATE TABLE setting (
    name TEXT PRIMARY KEY,
    value TEXT NOT NULL
);
