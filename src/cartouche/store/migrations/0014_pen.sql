-- Whether a close look goes with the line being written.
ALTER TABLE teaching ADD COLUMN follow_pen INTEGER NOT NULL DEFAULT 0;
