-- Devices of every kind. SQLite cannot change a CHECK, so the table is made anew (foreign keys are off while migrating).
CREATE TABLE device_new (
    id TEXT PRIMARY KEY,
    kit_id TEXT NOT NULL REFERENCES kit (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('bench', 'camera', 'guest', 'window', 'pages', 'slides', 'clip', 'stream')),
    source TEXT NOT NULL,
    label TEXT NOT NULL,
    name TEXT NOT NULL,
    rig TEXT NOT NULL,
    serves TEXT CHECK (serves IN ('page', 'face')),
    revision_id INTEGER REFERENCES chain_revision (id),
    microphone TEXT NOT NULL DEFAULT '',
    most_width INTEGER,
    most_height INTEGER,
    wish TEXT NOT NULL DEFAULT 'auto',
    width INTEGER,
    height INTEGER,
    usual_start_s REAL,
    page INTEGER NOT NULL DEFAULT 0
);
INSERT INTO device_new (id, kit_id, position, kind, source, label, name, rig, serves, revision_id)
    SELECT id, kit_id, position, kind, source, label, name, rig, serves, revision_id FROM device;
DROP TABLE device;
ALTER TABLE device_new RENAME TO device;

-- What was measured of a device at each size when it was last tried there.
CREATE TABLE tried (
    device_id TEXT NOT NULL REFERENCES device (id) ON DELETE CASCADE,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    frames_s REAL NOT NULL,
    delay_ms REAL NOT NULL,
    PRIMARY KEY (device_id, width, height)
);

-- Phones and tablets that have joined. The token itself is on the phone alone; awaited_until is in seconds since 1970.
CREATE TABLE guest (
    device_id TEXT PRIMARY KEY REFERENCES device (id) ON DELETE CASCADE,
    token_hash TEXT NOT NULL UNIQUE,
    address TEXT NOT NULL,
    awaited_until REAL NOT NULL
);

-- Files that a device shows, in order; the bytes lie in the folder `files` under the id.
CREATE TABLE file (
    id TEXT PRIMARY KEY,
    device_id TEXT NOT NULL REFERENCES device (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    kind TEXT NOT NULL,
    pages INTEGER NOT NULL
);
