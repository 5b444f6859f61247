-- The shortlist.
CREATE TABLE pins (market integer, key text, at datetime, PRIMARY KEY (market, key));
