package card

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// Recorded is one thing that a unit shows, as it was when it was written: which item it is, and sums by which one can
// tell later what was changed aboard and what in the data.
type Recorded struct {
	Kind   string  `json:"kind"` // as the unit shows it
	Name   string  `json:"name"`
	Lat    float64 `json:"lat"` // of its first position
	Lon    float64 `json:"lon"`
	Points int     `json:"points,omitempty"` // of a line
	File   string  `json:"file"`

	Source Source            `json:"source"`
	Part   int               `json:"part,omitempty"` // of a source that is parted for the unit: 1 is the second part
	Shown  map[string]string `json:"shown"`          // short sums of what the unit shows, by property
	Meant  map[string]string `json:"meant"`          // and of what the source says
}

// Source is the item that a thing was made of.
type Source struct {
	File   string  `json:"file,omitempty"`
	Kind   string  `json:"kind"`
	ID     string  `json:"id"` // its identity, its own or a made one
	Group  string  `json:"group,omitempty"`
	Name   string  `json:"name,omitempty"`
	Lat    float64 `json:"lat"`
	Lon    float64 `json:"lon"`
	Points int     `json:"points,omitempty"`
}

// sums gives the short sums of what is said of a thing.
func sums(t *identity.Thing) map[string]string {
	out := map[string]string{}
	for _, p := range identity.Properties(t) {
		if p.Word != "id" && p.Word != "details" {
			out[p.Word] = p.Sum(t)
		}
	}
	return out
}

// changes lists the properties of a thing whose sums are not those that were recorded, in their order.
func changes(t *identity.Thing, was map[string]string) (out []string) {
	is := sums(t)
	for _, p := range identity.Properties(t) {
		if sum, known := is[p.Word]; known && was[p.Word] != sum {
			out = append(out, p.Word)
		}
	}
	var gone []string
	for word := range was {
		if is[word] == "" {
			gone = append(gone, word)
		}
	}
	slices.Sort(gone)
	return append(out, gone...)
}

func sourceOf(t *identity.Thing, file string) Source {
	p, _ := t.First()
	s := Source{File: file, Kind: t.Kind.One(), ID: identity.Of(t), Group: t.Item.Group, Name: t.Item.Name, Lat: p.Lat,
		Lon: p.Lon}
	if t.Kind != nav.Waypoints {
		s.Points = t.Points()
	}
	return s
}

// recorded makes the entry of a thing that is shown.
func recorded(shown *identity.Thing, file string, source *identity.Thing, from string, part int) Recorded {
	p, _ := shown.First()
	r := Recorded{Kind: shown.Kind.One(), Name: shown.Item.Name, Lat: p.Lat, Lon: p.Lon, File: file, Part: part,
		Source: sourceOf(source, from), Shown: sums(shown), Meant: sums(source)}
	if shown.Kind != nav.Waypoints {
		r.Points = shown.Points()
	}
	return r
}

// recordsFolder is where copies of records stand, beside the archives of cards.
const recordsFolder = "records"

// saveCopy keeps a copy of a card's record off the card, since a unit may wipe what it does not know. That of the stow
// before goes.
func saveCopy(keep string, m, before *Manifest) error {
	if keep == "" || len(m.Things) == 0 {
		return nil
	}
	dir := filepath.Join(keep, recordsFolder)
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return fmt.Errorf("%s: can't be made: %w", dir, err)
	}
	text, err := m.text()
	if err != nil {
		return err
	}
	name := copyName(m)
	if _, err := os.Lstat(filepath.Join(dir, name)); err == nil {
		return nil
	}
	if _, err := safefile.WriteBytes(filepath.Join(dir, name), true, text); err != nil {
		return err
	}
	if before != nil {
		if old := copyName(before); old != name && old != "" {
			os.Remove(filepath.Join(dir, old)) // one copy a card
		}
	}
	return nil
}

func copyName(m *Manifest) string {
	text, err := json.Marshal(m.Things)
	if err != nil || len(m.Things) == 0 {
		return ""
	}
	return m.Unit + "-" + sumOf(text)[:16] + ".json"
}

// copied finds the copy of the record of a card that has lost its own: the one most of whose things the card shows.
func copied(keep, unit string, things []Present) (best []Recorded, from string) {
	if keep == "" || len(things) == 0 {
		return nil, ""
	}
	shown := map[string]bool{}
	key := func(kind, name string, lat, lon float64) string {
		return fmt.Sprintf("%s\x00%s\x00%.5f\x00%.5f", kind, strings.ToLower(name), lat, lon)
	}
	for i := range things {
		p, _ := things[i].First()
		shown[key(things[i].Kind.One(), things[i].Item.Name, p.Lat, p.Lon)] = true
	}
	files, err := filepath.Glob(filepath.Join(keep, recordsFolder, unit+"-*.json"))
	if err != nil {
		return nil, ""
	}
	most := 0
	for _, file := range files {
		text, err := os.ReadFile(file)
		m := &Manifest{}
		if err != nil || json.Unmarshal(text, m) != nil {
			continue
		}
		found := 0
		for i := range m.Things {
			if r := &m.Things[i]; shown[key(r.Kind, r.Name, r.Lat, r.Lon)] {
				found++
			}
		}
		if found > most && 2*found >= len(m.Things) {
			best, from, most = m.Things, file, found
		}
	}
	return
}
