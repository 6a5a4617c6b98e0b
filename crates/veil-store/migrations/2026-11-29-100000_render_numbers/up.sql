-- How many values were beyond what a render's files hold.
ALTER TABLE renders ADD COLUMN beyond BIGINT NOT NULL DEFAULT 0;
-- Which numbers a clip holds: its curve and its range.
CREATE TABLE clips (
    render_id INTEGER PRIMARY KEY NOT NULL REFERENCES renders (id) ON DELETE CASCADE,
    numbers TEXT NOT NULL
);
