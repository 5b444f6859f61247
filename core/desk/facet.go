package desk

// FacetIcons is the facet of the icon pack a surface shows.
const FacetIcons = "icons"

// FacetTitles are the facets Ivelt can set, in the order they are shown, with
// what they are called on pages.
var FacetTitles = []struct{ Name, Title string }{
	{FacetIcons, "Icons"},
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
