-- Which role a device gave up to another, and in which order: it takes it back when that one is removed.
ALTER TABLE device ADD COLUMN yielded TEXT CHECK (yielded IN ('page', 'face'));
ALTER TABLE device ADD COLUMN yielded_number INTEGER NOT NULL DEFAULT 0;
