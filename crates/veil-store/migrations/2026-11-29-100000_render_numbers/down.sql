DROP TABLE clips;
ALTER TABLE renders DROP COLUMN beyond;
