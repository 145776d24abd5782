-- What each device was corrected to in each rig: the newest, and the last of an earlier day.
CREATE TABLE usual_chain (
    device_id TEXT NOT NULL REFERENCES device (id) ON DELETE CASCADE,
    rig TEXT NOT NULL,
    chain TEXT NOT NULL,
    day TEXT NOT NULL,
    last_time TEXT,
    PRIMARY KEY (device_id, rig)
);
