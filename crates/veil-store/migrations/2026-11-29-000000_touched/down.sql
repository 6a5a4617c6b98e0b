DROP INDEX history_steps;
DROP TABLE touched;
