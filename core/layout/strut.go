package layout

import "image"

// Strut is what a bar takes off the edges of the whole root window, in the order of the property
// _NET_WM_STRUT_PARTIAL (Extended Window Manager Hints 1.5): how far in from the left, right, top and
// bottom edge, px of the screen, and for each of these where along the edge it begins and ends.
type Strut struct {
	Left, Right, Top, Bottom                                         int
	LeftFrom, LeftTo, RightFrom, RightTo, TopFrom, TopTo, BottomFrom int
	BottomTo                                                         int
}

// Cardinals are the twelve numbers of the property.
func (s Strut) Cardinals() [12]int {
	return [12]int{s.Left, s.Right, s.Top, s.Bottom, s.LeftFrom, s.LeftTo, s.RightFrom, s.RightTo, s.TopFrom, s.TopTo, s.BottomFrom, s.BottomTo}
}

// StrutOf is what something at an edge of a monitor takes, given where it is, the monitors and the root,
// px of the screen. Struts are told from the edges of the root, not from those of the monitor: what has
// another monitor between it and the root's edge cannot be told without taking that one too, and is not.
func StrutOf(e Edge, at image.Rectangle, monitors []image.Rectangle, root image.Rectangle) (s Strut, ok bool) {
	band := at
	switch e {
	case Left:
		band.Min.X = root.Min.X
		s.Left, s.LeftFrom, s.LeftTo = at.Max.X-root.Min.X, at.Min.Y-root.Min.Y, at.Max.Y-root.Min.Y-1
	case Right:
		band.Max.X = root.Max.X
		s.Right, s.RightFrom, s.RightTo = root.Max.X-at.Min.X, at.Min.Y-root.Min.Y, at.Max.Y-root.Min.Y-1
	case Top:
		band.Min.Y = root.Min.Y
		s.Top, s.TopFrom, s.TopTo = at.Max.Y-root.Min.Y, at.Min.X-root.Min.X, at.Max.X-root.Min.X-1
	default:
		band.Max.Y = root.Max.Y
		s.Bottom, s.BottomFrom, s.BottomTo = root.Max.Y-at.Min.Y, at.Min.X-root.Min.X, at.Max.X-root.Min.X-1
	}
	if at.Empty() || !at.In(root) {
		return Strut{}, false
	}
	for _, m := range monitors {
		if !at.In(m) && !m.Intersect(band).Empty() {
			return Strut{}, false
		}
	}
	return s, true
}

// WorkArea is what struts leave of the root: the property _NET_WORKAREA, one rectangle for all monitors.
func WorkArea(root image.Rectangle, struts []Strut) image.Rectangle {
	out := root
	for _, s := range struts {
		out.Min.X, out.Max.X = max(out.Min.X, root.Min.X+s.Left), min(out.Max.X, root.Max.X-s.Right)
		out.Min.Y, out.Max.Y = max(out.Min.Y, root.Min.Y+s.Top), min(out.Max.Y, root.Max.Y-s.Bottom)
	}
	if out.Empty() {
		return image.Rectangle{}
	}
	return out
}
