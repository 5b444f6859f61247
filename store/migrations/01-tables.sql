-- What was there first.
CREATE TABLE desks (id text PRIMARY KEY, title text, home text, system text, home_path text, seen datetime);
CREATE TABLE parcels (sha256 text PRIMARY KEY, name text, file text, entry text, title text, maker text, licence text, version text,
	format text, bytes integer, entries integer, password text, contents blob, fetched datetime);
CREATE TABLE pieces (id integer PRIMARY KEY AUTOINCREMENT, desk text, kind text, name text, folder text, path text, version text,
	parcel text, plan_id text, placed_at datetime);
CREATE TABLE outfits (id integer PRIMARY KEY AUTOINCREMENT, desk text, name text, draft numeric, text blob, plan_id text, changed datetime);
CREATE TABLE plans (id text PRIMARY KEY, desk text, json blob, made datetime);
CREATE TABLE checkpoints (id integer PRIMARY KEY AUTOINCREMENT, desk text, plan_id text, title text, at datetime, gone_on datetime,
	is_back numeric, changes integer);
