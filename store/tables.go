package store

// The names of the tables are those of the migrations.

func (DeskRow) TableName() string        { return "desks" }
func (ParcelRow) TableName() string      { return "parcels" }
func (PieceRow) TableName() string       { return "pieces" }
func (OutfitRow) TableName() string      { return "outfits" }
func (PlanRow) TableName() string        { return "plans" }
func (CheckpointRow) TableName() string  { return "checkpoints" }
func (MarketRow) TableName() string      { return "markets" }
func (MarketPageRow) TableName() string  { return "market_pages" }
func (MarketEntryRow) TableName() string { return "market_entries" }
func (PinRow) TableName() string         { return "pins" }
func (UndoStepRow) TableName() string    { return "steps" }
func (LookRow) TableName() string        { return "kepts" }
func (TrialRow) TableName() string       { return "trials" }
func (RunRow) TableName() string         { return "runs" }
func (NoticeRow) TableName() string      { return "notices" }
func (DayRow) TableName() string         { return "days" }
func (MakingRow) TableName() string      { return "makings" }
func (TurningRow) TableName() string     { return "turnings" }
func (JourneyRow) TableName() string     { return "journeys" }
