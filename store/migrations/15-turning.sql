-- What turns on a desk, and the entries of the history that are its turns.
CREATE TABLE turnings (desk text, checkpoint integer, since datetime, turns integer, due datetime, paused numeric, stopped text, told blob, PRIMARY KEY (desk, checkpoint));
ALTER TABLE checkpoints ADD COLUMN turn_of integer;
UPDATE checkpoints SET turn_of = 0;
