-- Who asked for a change of a system that an administrator made.
ALTER TABLE checkpoints ADD COLUMN asked_by text;
UPDATE checkpoints SET asked_by = '';
