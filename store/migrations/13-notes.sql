-- A sentence of its owner's beside an entry of the history, and entries that change nothing.
ALTER TABLE checkpoints ADD COLUMN note text;
ALTER TABLE checkpoints ADD COLUMN as_is numeric;
UPDATE checkpoints SET note = '', as_is = title = 'As it was found' AND pinned;
