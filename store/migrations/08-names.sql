-- Entries by their names, whatever the case.
CREATE INDEX market_entry_names ON market_entries (lower(name));
