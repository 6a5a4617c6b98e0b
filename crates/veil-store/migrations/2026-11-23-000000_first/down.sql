DROP TABLE renders; DROP TABLE tools; DROP TABLE media; DROP TABLE versions; DROP TABLE history; DROP TABLE shots; DROP TABLE shows;
