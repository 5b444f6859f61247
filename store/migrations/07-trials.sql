-- Trials, and what an entry of the history keeps.
ALTER TABLE checkpoints ADD COLUMN gone_by integer;
ALTER TABLE checkpoints ADD COLUMN bytes integer;
ALTER TABLE checkpoints ADD COLUMN pinned numeric;
ALTER TABLE checkpoints ADD COLUMN let_go datetime;
ALTER TABLE outfits ADD COLUMN checkpoint integer;
CREATE TABLE trials (desk text PRIMARY KEY, checkpoint integer, until datetime, restarted text);
