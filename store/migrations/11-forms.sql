-- Entries that have a light and a dark form.
ALTER TABLE market_entries ADD COLUMN two_forms numeric;
UPDATE market_entries SET two_forms = 0;
