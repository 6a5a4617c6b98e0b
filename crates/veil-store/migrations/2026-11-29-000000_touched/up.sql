-- Which parts of a setup each step changed, to know what an edit on an older revision meets.
CREATE TABLE touched (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id),
    -- The one that the step led to.
    revision BIGINT NOT NULL,
    -- `row 12`, `order`, `media` and so on.
    part TEXT NOT NULL,
    -- Of the step.
    label TEXT NOT NULL
);
CREATE INDEX touched_parts ON touched (shot_id, part, revision);
CREATE INDEX history_steps ON history (shot_id, undone, id);
