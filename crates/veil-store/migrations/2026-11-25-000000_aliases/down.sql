DROP TABLE aliases;
