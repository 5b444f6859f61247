-- What came through is known by its run, what is told is kept, ages are counted in days of use.
ALTER TABLE checkpoints ADD COLUMN run text;
ALTER TABLE checkpoints ADD COLUMN day integer;
CREATE INDEX idx_checkpoints_run ON checkpoints(run);
ALTER TABLE trials ADD COLUMN "for" integer;
CREATE TABLE runs (id text PRIMARY KEY, desk text, plan_id text);
CREATE INDEX idx_runs_desk ON runs(desk);
CREATE TABLE notices (id integer PRIMARY KEY AUTOINCREMENT, desk text, text text, at datetime);
CREATE TABLE days (id integer PRIMARY KEY AUTOINCREMENT, date text, count integer);
