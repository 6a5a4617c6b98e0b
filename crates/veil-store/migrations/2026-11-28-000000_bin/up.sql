-- What a person took away waits here until it is put back or the bin is emptied.
CREATE TABLE bin (
    id INTEGER PRIMARY KEY NOT NULL,
    -- show, shot, plate, render, tool or version.
    kind TEXT NOT NULL,
    -- Its number in its own table.
    item INTEGER NOT NULL,
    name TEXT NOT NULL,
    -- What it was in, as told.
    place TEXT NOT NULL,
    at BIGINT NOT NULL,
    UNIQUE (kind, item)
);
ALTER TABLE shows ADD COLUMN binned BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE shots ADD COLUMN binned BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE media ADD COLUMN binned BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE renders ADD COLUMN binned BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE tools ADD COLUMN binned BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE versions ADD COLUMN binned BOOLEAN NOT NULL DEFAULT FALSE;
-- What new shots of a show start with.
ALTER TABLE shows ADD COLUMN fps DOUBLE NOT NULL DEFAULT 24;
ALTER TABLE shows ADD COLUMN width INTEGER NOT NULL DEFAULT 1920;
ALTER TABLE shows ADD COLUMN height INTEGER NOT NULL DEFAULT 1080;
-- How often a render was begun without a frame coming of it.
ALTER TABLE renders ADD COLUMN attempts INTEGER NOT NULL DEFAULT 0;
-- How many of its frames were there already when it was last made.
ALTER TABLE renders ADD COLUMN kept INTEGER NOT NULL DEFAULT 0;
-- Whether the program brought it along.
ALTER TABLE tools ADD COLUMN shipped BOOLEAN NOT NULL DEFAULT FALSE;
