package archive

// WithoutPrograms makes the parcel reader do all unpacking by itself, until the
// function it returns is called.
func WithoutPrograms() (again func()) {
	before := xzProgram
	xzProgram = func() string { return "" }
	return func() { xzProgram = before }
}
