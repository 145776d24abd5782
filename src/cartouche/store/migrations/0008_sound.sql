-- Microphones by the teacher's names, their rooms, and which computers join the call: one value for each kit, checked whole.
CREATE TABLE sound_kit (
    kit_id TEXT PRIMARY KEY REFERENCES kit (id) ON DELETE CASCADE,
    declared TEXT NOT NULL
);
