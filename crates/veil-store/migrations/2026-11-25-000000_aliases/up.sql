CREATE TABLE aliases (
    id INTEGER PRIMARY KEY NOT NULL,
    show_id INTEGER NOT NULL REFERENCES shows (id),
    -- A layer's name, as files have it.
    layer TEXT NOT NULL,
    role TEXT NOT NULL,
    UNIQUE (show_id, layer)
);
