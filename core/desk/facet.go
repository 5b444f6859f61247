package desk

// Facets that Ivelt can set.
const (
	FacetWidgets = "widgets" // the window theme a toolkit's programs wear
	FacetIcons   = "icons"   // the icon pack a surface shows
	FacetPointer = "pointer" // the pointer set
)

// FacetTitles are the facets Ivelt can set, in the order they are shown, with
// what they are called on pages.
var FacetTitles = []struct{ Name, Title string }{
	{FacetWidgets, "Windows"},
	{FacetIcons, "Icons"},
	{FacetPointer, "Pointer"},
}

// FacetTitle returns what a facet is called on pages.
func FacetTitle(name string) string {
	for _, f := range FacetTitles {
		if f.Name == name {
			return f.Title
		}
	}
	return name
}
