ALTER TABLE media DROP COLUMN reference;
