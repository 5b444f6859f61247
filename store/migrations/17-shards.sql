-- Markets in shards: who signs one, what of it was read last, and who else signs it by now. Words are
-- looked for in memory.
ALTER TABLE markets ADD COLUMN key text NOT NULL DEFAULT '';
ALTER TABLE markets ADD COLUMN other_key text NOT NULL DEFAULT '';
ALTER TABLE markets ADD COLUMN serial integer NOT NULL DEFAULT 0;
ALTER TABLE markets ADD COLUMN digest text NOT NULL DEFAULT '';
DROP TABLE market_terms;
DROP TABLE market_words;
-- How often the entries of markets have changed: what is kept of them elsewhere names the count.
CREATE TABLE market_changes (id integer PRIMARY KEY CHECK (id = 1), count integer NOT NULL);
INSERT INTO market_changes VALUES (1, 1);
-- Fewer indices, and smaller ones: those of a million entries are most of the work of changing some.
DROP INDEX market_entry_names;
DROP INDEX idx_market_entries_family;
DROP INDEX idx_market_entries_variant_of;
CREATE INDEX market_families ON market_entries(family) WHERE family <> '';
CREATE INDEX market_variants ON market_entries(variant_of) WHERE variant_of <> '';
