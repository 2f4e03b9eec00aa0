package standin

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"io/fs"
	"path"
	"strings"

	"gyrolith/core/pattern"
)

// ridgeMade is the file in which the unit keeps what is made on it.
const ridgeMade = "MADE.GPX"

var ridgeAttr = pattern.New(`\b(lat|lon)\s*=\s*("[^"]*"|'[^']*')`)

// ridgePlace is where a waypoint stands in a file, in bytes.
type ridgePlace struct{ from, tagEnd, to int64 }

// ridgeCrew makes, moves and deletes waypoints. What is made goes into a file of its own.
func ridgeCrew(card fs.FS, d Deed) (*Change, error) {
	files, dir, err := filesIn(card, ".gpx", ridgeFolder, ridgeWaypointsDir)
	if err != nil {
		return nil, err
	}
	r := &ridge{card: card}
	made := ""
	for _, file := range files {
		if strings.EqualFold(path.Base(file), ridgeMade) {
			made = file
		}
		if _, err := r.open(file); err != nil {
			continue // the unit passes over it
		}
		text, err := fs.ReadFile(card, file)
		if err != nil {
			return nil, err
		}
		at, ok := ridgeFind(text, func(name string) bool { return strings.EqualFold(r.text(name, ridgeName), d.Name) })
		switch {
		case !ok:
		case d.Do == Make:
			return nil, errHasMark("waypoint", d.Name)
		case d.Do == Delete:
			return &Change{file, append(append([]byte(nil), text[:at.from]...), text[at.to:]...)}, nil
		default:
			tag := ridgeAttr.ReplaceAllFunc(text[at.from:at.tagEnd], func(b []byte) []byte {
				if bytes.HasPrefix(b, []byte("lat")) {
					return fmt.Appendf(nil, `lat="%.6f"`, d.At.Lat)
				}
				return fmt.Appendf(nil, `lon="%.6f"`, d.At.Lon)
			})
			return &Change{file, bytes.Join([][]byte{text[:at.from], tag, text[at.tagEnd:]}, nil)}, nil
		}
	}
	if d.Do != Make {
		return nil, errNoMark("waypoint", d.Name)
	}
	name := []rune(d.Name)
	var escaped bytes.Buffer
	if err := xml.EscapeText(&escaped, []byte(string(name[:min(len(name), ridgeName)]))); err != nil {
		return nil, err
	}
	point := fmt.Sprintf("<wpt lat=\"%.6f\" lon=\"%.6f\"><name>%s</name></wpt>\n", d.At.Lat, d.At.Lon, escaped.String())
	text := []byte("<gpx version=\"1.1\" creator=\"Ridge\" xmlns=\"" + ridgeGPX + "\">\n</gpx>\n")
	if made != "" {
		if text, err = fs.ReadFile(card, made); err != nil {
			return nil, err
		}
	} else {
		if dir == "" {
			dir = ridgeFolder + "/" + ridgeWaypointsDir
		}
		made = path.Join(dir, ridgeMade)
	}
	end := bytes.LastIndex(text, []byte("</gpx>"))
	if end < 0 {
		return nil, fmt.Errorf("%s is not sound", made)
	}
	return &Change{made, bytes.Join([][]byte{text[:end], []byte(point), text[end:]}, nil)}, nil
}

// ridgeFind finds a waypoint by its name.
func ridgeFind(text []byte, is func(string) bool) (at ridgePlace, ok bool) {
	dec := xml.NewDecoder(bytes.NewReader(text))
	for {
		from := dec.InputOffset()
		token, err := dec.Token()
		if err != nil {
			return at, false
		}
		tag, begins := token.(xml.StartElement)
		if !begins || tag.Name.Local != "wpt" {
			continue
		}
		at = ridgePlace{from: from, tagEnd: dec.InputOffset()}
		var p ridgePoint
		if err := dec.DecodeElement(&p, &tag); err != nil {
			return at, false
		}
		at.to = dec.InputOffset()
		if is(p.Name) {
			return at, true
		}
	}
}
