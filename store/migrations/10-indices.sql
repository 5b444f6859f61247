-- What is asked for by its desk, by its family or by what it is a variant of is found without going through all.
CREATE INDEX IF NOT EXISTS idx_market_entries_family ON market_entries(family);
CREATE INDEX IF NOT EXISTS idx_market_entries_variant_of ON market_entries(variant_of);
CREATE INDEX pieces_of_desk ON pieces(desk);
CREATE INDEX outfits_of_desk ON outfits(desk);
CREATE INDEX checkpoints_of_desk ON checkpoints(desk);
CREATE INDEX checkpoints_of_plan ON checkpoints(plan_id);
CREATE INDEX plans_of_desk ON plans(desk);
CREATE INDEX steps_of_desk ON steps(desk);
CREATE INDEX kepts_of_desk ON kepts(desk);
CREATE INDEX notices_of_desk ON notices(desk);
