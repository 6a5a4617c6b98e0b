-- A picture that was kept to look back at: the setup it is of, the row, the frame and how it was looked at.
CREATE TABLE stills (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id),
    number INTEGER NOT NULL,
    name TEXT NOT NULL,
    revision BIGINT NOT NULL,
    stage INTEGER NOT NULL,
    frame DOUBLE NOT NULL,
    setup TEXT NOT NULL,
    at BIGINT NOT NULL,
    UNIQUE (shot_id, number)
);
-- The window that an edit came from; empty where nobody said.
ALTER TABLE history ADD COLUMN pane TEXT NOT NULL DEFAULT '';
