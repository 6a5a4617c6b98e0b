-- The colours that every shot of a show works in, as JSON.
ALTER TABLE shows ADD COLUMN working TEXT NOT NULL DEFAULT '"bt709"';
