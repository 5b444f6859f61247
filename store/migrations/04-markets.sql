-- Markets, and from which of them a parcel came.
ALTER TABLE parcels ADD COLUMN market integer;
CREATE TABLE markets (id integer PRIMARY KEY AUTOINCREMENT, base text, name text, about text, "on" numeric, own numeric, seen datetime, trouble text);
CREATE UNIQUE INDEX idx_markets_base ON markets(base);
CREATE TABLE market_pages (market integer, file text, e_tag text, "when" text, pages text, PRIMARY KEY (market, file));
CREATE TABLE market_entries (id integer PRIMARY KEY AUTOINCREMENT, market integer, page text, key text, kind text, name text, maker text,
	family text, tags text, summary text, date integer, likes integer, rising integer, lightness real, chroma real, hue real, contrast real,
	roundness real, density real, measured numeric, packaged numeric, risky numeric, picced numeric, licence text, dresses text,
	variant_of text, json blob);
CREATE INDEX idx_market_entries_key ON market_entries(key);
CREATE INDEX place ON market_entries(market, page);
CREATE VIRTUAL TABLE market_words USING fts5(name, maker, family, tags, summary, kind,
	content='', contentless_delete=1, detail=none, tokenize='unicode61 remove_diacritics 2', prefix='1 2 3');
CREATE VIRTUAL TABLE market_terms USING fts5vocab(market_words, row);
