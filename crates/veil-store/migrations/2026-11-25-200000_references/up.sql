-- Whether a medium is there to be matched, and never rendered.
ALTER TABLE media ADD COLUMN reference BOOLEAN NOT NULL DEFAULT FALSE;
