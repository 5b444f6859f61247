package gtkrc

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// derived is what the usual widgets are derived from (GTK 2's object hierarchy).
var derived = map[string]string{
	"GInitiallyUnowned": "GObject", "GtkObject": "GInitiallyUnowned", "GtkWidget": "GtkObject", "GtkContainer": "GtkWidget", "GtkBin": "GtkContainer", "GtkBox": "GtkContainer",
	"GtkWindow": "GtkBin", "GtkDialog": "GtkWindow", "GtkVBox": "GtkBox", "GtkHBox": "GtkBox", "GtkFrame": "GtkBin", "GtkMisc": "GtkWidget", "GtkLabel": "GtkMisc",
	"GtkAccelLabel": "GtkLabel", "GtkImage": "GtkMisc", "GtkButton": "GtkBin", "GtkToggleButton": "GtkButton", "GtkCheckButton": "GtkToggleButton", "GtkRadioButton": "GtkCheckButton",
	"GtkEntry": "GtkWidget", "GtkSpinButton": "GtkEntry", "GtkMenuShell": "GtkContainer", "GtkMenuBar": "GtkMenuShell", "GtkMenu": "GtkMenuShell", "GtkItem": "GtkBin",
	"GtkMenuItem": "GtkItem", "GtkToolbar": "GtkContainer", "GtkTreeView": "GtkContainer", "GtkTextView": "GtkContainer", "GtkNotebook": "GtkContainer", "GtkProgress": "GtkWidget",
	"GtkProgressBar": "GtkProgress", "GtkRange": "GtkWidget", "GtkScale": "GtkRange", "GtkHScale": "GtkScale", "GtkScrollbar": "GtkRange", "GtkHScrollbar": "GtkScrollbar",
	"GtkVScrollbar": "GtkScrollbar", "GtkSeparator": "GtkWidget", "GtkHSeparator": "GtkSeparator", "GtkStatusbar": "GtkHBox", "GtkScrolledWindow": "GtkBin", "GtkViewport": "GtkBin",
}

// Of is a widget of one of the usual types. One of another type is taken for a
// plain widget.
func Of(name, typ string) Widget {
	types := []string{typ}
	for up := cmp.Or(derived[typ], "GtkWidget"); up != ""; up = derived[up] {
		types = append(types, up)
	}
	return Widget{name, types}
}

// Path reads the widgets from the window down, "GtkWindow GtkVBox
// GtkButton#keeper:prelight": each a type, with a name if it has one of its own;
// the last one's state is normal if none is given.
func Path(path string) (widgets []Widget, state State, err error) {
	fields := strings.Fields(path)
	if len(fields) == 0 {
		return nil, 0, fmt.Errorf("%q names no widget", path)
	}
	for i, field := range fields {
		field, said, has := strings.Cut(field, ":")
		if has {
			at := slices.Index(stateNames, strings.ToUpper(said))
			if at < 0 || i < len(fields)-1 {
				return nil, 0, fmt.Errorf("%q is no state of the last widget; those are normal, active, prelight, selected and insensitive", said)
			}
			state = State(at)
		}
		typ, name, own := strings.Cut(field, "#")
		if !own {
			name = typ
		}
		widgets = append(widgets, Of(name, typ))
	}
	return widgets, state, nil
}
