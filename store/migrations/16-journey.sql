-- Desks under a lock on their way to a look.
CREATE TABLE journeys (desk text, id text, begun blob, outfit blob, again numeric, done text, ways blob, first integer, ended datetime, PRIMARY KEY (desk));
