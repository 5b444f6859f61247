package reading

import (
	"slices"

	"ivelt/core/layout"
	"ivelt/core/say"
)

// maxLost bounds how much of what is lost is told.
const maxLost = 8

// NotTaken tells in words what of a layout a shell does not take.
func NotTaken(all []layout.Loss) say.Message {
	var out, items []say.Message
	for i, l := range all {
		if i == maxLost && len(all) > maxLost+1 {
			out = append(out, say.Of("reading/lost/more", len(all)-maxLost))
			break
		}
		if l.Code == layout.LostItem {
			k, _ := layout.KindOf(l.What)
			items = append(items, say.Lower(k.Title))
			continue
		}
		out = append(out, notTaken(l))
	}
	if items != nil {
		out = slices.Insert(out, 0, say.Of("reading/lost/item", say.Join(", no ", items...)))
	}
	return say.Join("; ", out...)
}

func notTaken(l layout.Loss) say.Message {
	switch l.Code {
	case layout.LostEdge:
		return say.Of("reading/lost/edge", l.What, l.Instead)
	case layout.LostThick:
		return say.Of("reading/lost/thick", l.What, l.Instead)
	case layout.LostBar:
		return say.Of("reading/lost/bar", l.What)
	case layout.LostWay:
		return say.Of("reading/lost/way", layout.Tiling(l.What).Says())
	case layout.LostDock:
		return say.Of("reading/lost/dock")
	}
	switch l.What {
	case "long", "at":
		return say.Of("reading/lost/long")
	case "margin":
		return say.Of("reading/lost/margin")
	case "round":
		return say.Of("reading/lost/round")
	case "hides":
		return say.Of("reading/lost/hides")
	case "on":
		return say.Of("reading/lost/on")
	case "outer":
		return say.Of("reading/lost/outer")
	case "inner":
		return say.Of("reading/lost/inner")
	case "share":
		return say.Of("reading/lost/share")
	case "frames":
		return say.Of("reading/lost/frames")
	case "float":
		return say.Of("reading/lost/float")
	case "least":
		return say.Of("reading/lost/least")
	}
	return say.Of("reading/lost/word", l.What)
}
