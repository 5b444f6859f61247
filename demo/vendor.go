package demo

import (
	"fmt"
	"image"
	"image/draw"
	"strings"

	"ivelt/core/curfile"
)

// phalaropeDyes are the colours of Phalarope: night water, a rim of foam and coral.
var phalaropeDyes = strings.NewReplacer(pointerEdge, "#fff4ea", pointerFill, "#3a2a44", pointerAccent, "#ff7f6b")

// phalaropeFiles is what the maker calls the drawings. Two are still to come.
var phalaropeFiles = map[string]string{
	"default": "Phalarope Normal", "pointer": "Phalarope Link", "text": "Phalarope Text", "move": "Phalarope Move", "help": "Phalarope Help", "not-allowed": "Phalarope Unavailable",
	"ew-resize": "Phalarope Horizontal", "ns-resize": "Phalarope Vertical", "nwse-resize": "Phalarope Diagonal 1", "nesw-resize": "Phalarope Diagonal 2",
}

// phalarope is a pointer set for the other family of systems: lists of pictures in two sizes, and
// two that move.
func phalarope() (files, error) {
	const top = "Phalarope pointers/"
	out := files{
		top + "LICENSE":                    []byte("CC0-1.0\n"),
		top + "Read me first.txt":          []byte("Choose each pointer in the list of your system.\n"),
		top + "Phalarope, the old one.cur": nil,
	}
	for _, s := range pointerShapes {
		if name := phalaropeFiles[s.name]; name != "" {
			b, err := cur(s.draw, s.hotX, s.hotY)
			if err != nil {
				return nil, err
			}
			out[top+name+".cur"] = b
		}
	}
	out[top+"Phalarope, the old one.cur"] = out[top+"Phalarope Normal.cur"]
	for name, ring := range map[string]bool{"Phalarope Busy": true, "Phalarope Working": false} {
		var frames [][]byte
		var steps []curfile.Step
		for i := range 8 {
			hot := 5
			if ring {
				hot = 16
			}
			b, err := cur(waiting(i, 8, ring), hot, hot)
			if err != nil {
				return nil, err
			}
			frames, steps = append(frames, b), append(steps, curfile.Step{Frame: i, Jiffies: 5 + i%2})
		}
		b, err := curfile.EncodeAnimation(frames, steps, name, "Ines Hallig")
		if err != nil {
			return nil, err
		}
		out[top+name+".ani"] = b
	}
	return out, nil
}

// cur draws a list of two sizes.
func cur(drawing string, hotX, hotY int) ([]byte, error) {
	var list []curfile.Picture
	for _, size := range []int{32, 48} {
		im, err := pointerPicture(phalaropeDyes.Replace(drawing), size)
		if err != nil {
			return nil, fmt.Errorf("phalarope: %w", err)
		}
		plain := image.NewNRGBA(image.Rect(0, 0, size, size))
		draw.Draw(plain, plain.Rect, im, im.Bounds().Min, draw.Src)
		list = append(list, curfile.Picture{NRGBA: plain, HotX: hotX * size / 32, HotY: hotY * size / 32})
	}
	return curfile.Encode(true, list)
}
