-- Who came by an invitation may watch, or press the lesson's keys as a remote.
ALTER TABLE watcher ADD COLUMN may TEXT NOT NULL DEFAULT 'watch';
