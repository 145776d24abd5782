-- What was read on a sheet by itself (NULL: not looked at yet), and the heading among it.
ALTER TABLE sheet ADD COLUMN read TEXT;
ALTER TABLE sheet ADD COLUMN heading TEXT NOT NULL DEFAULT '';
