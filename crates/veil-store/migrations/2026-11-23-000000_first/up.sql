CREATE TABLE shows (
    id INTEGER PRIMARY KEY NOT NULL,
    name TEXT NOT NULL UNIQUE,
    -- Below the data folder's media/.
    folder TEXT NOT NULL UNIQUE
);
CREATE TABLE shots (
    id INTEGER PRIMARY KEY NOT NULL,
    show_id INTEGER NOT NULL REFERENCES shows (id),
    code TEXT NOT NULL,
    title TEXT NOT NULL,
    setup TEXT NOT NULL,
    revision BIGINT NOT NULL,
    changed_at BIGINT NOT NULL,
    UNIQUE (show_id, code)
);
CREATE TABLE history (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id),
    -- The revision it led to when it was last done or undone.
    revision BIGINT NOT NULL,
    edit TEXT NOT NULL,
    undone BOOLEAN NOT NULL,
    at BIGINT NOT NULL
);
CREATE INDEX history_of_a_shot ON history (shot_id, id);
CREATE TABLE versions (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id),
    number INTEGER NOT NULL,
    name TEXT NOT NULL,
    setup TEXT NOT NULL,
    at BIGINT NOT NULL,
    UNIQUE (shot_id, number)
);
CREATE TABLE media (
    id INTEGER PRIMARY KEY NOT NULL,
    show_id INTEGER NOT NULL REFERENCES shows (id),
    path TEXT NOT NULL,
    inspected TEXT NOT NULL,
    -- Chosen by a person; null where the guess holds.
    colour TEXT,
    UNIQUE (show_id, path)
);
CREATE TABLE tools (
    id INTEGER PRIMARY KEY NOT NULL,
    name TEXT NOT NULL,
    number INTEGER NOT NULL,
    tool TEXT NOT NULL,
    -- PNG of its result where it was made.
    picture BLOB NOT NULL,
    at BIGINT NOT NULL,
    UNIQUE (name, number)
);
CREATE TABLE renders (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id),
    setup TEXT NOT NULL,
    stage INTEGER NOT NULL,
    first INTEGER NOT NULL,
    last INTEGER NOT NULL,
    scale INTEGER NOT NULL,
    -- Below the data folder's renders/.
    output TEXT NOT NULL,
    state TEXT NOT NULL,
    done INTEGER NOT NULL,
    -- JSON: frame and message of each that failed.
    failed TEXT NOT NULL,
    at BIGINT NOT NULL
);
