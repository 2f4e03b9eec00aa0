package input

import (
	"cmp"
	"fmt"
	"path/filepath"
	"slices"

	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// Recorded is a track of some file, with what it is known by.
type Recorded struct {
	File string `json:"file"`
	Name string `json:"name,omitempty"`

	Of   *identity.Recording `json:"-"`
	path string
}

func (r *Recorded) String() string {
	if r.Name == "" {
		return "a track of " + r.File
	}
	return fmt.Sprintf("track %q of %s", r.Name, r.File)
}

// RecordedIn gives the tracks of data.
func RecordedIn(d *nav.Dataset, file string) (out []Recorded) {
	for i := range d.Tracks {
		var lines [][]nav.Point
		for k := range d.Tracks[i].Segments {
			lines = append(lines, d.Tracks[i].Segments[k].Points)
		}
		out = append(out, Recorded{file, d.Tracks[i].Name, identity.NewRecording(lines), d.Tracks[i].From(d)})
	}
	return out
}

// CopiesOf finds the tracks that are in others. Of two that are equally long the one whose path comes later is in the
// other, in whatever order the files were named.
func CopiesOf(all []Recorded) []identity.Copy {
	order := make([]int, len(all))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(all[a].path, all[b].path) })
	list := make([]*identity.Recording, len(all))
	for k, i := range order {
		list[k] = all[i].Of
	}
	copies := identity.Copies(list)
	for k := range copies {
		copies[k].Of, copies[k].In = order[copies[k].Of], order[copies[k].In]
	}
	slices.SortFunc(copies, func(a, b identity.Copy) int { return cmp.Compare(a.Of, b.Of) })
	return copies
}

// Groups gathers the tracks that are one recording, the one that the others are in first.
func Groups(all []Recorded) (out [][]Recorded) {
	in := map[int]int{}
	copies := CopiesOf(all)
	for _, c := range copies {
		in[c.Of] = c.In
	}
	of := map[int]int{}
	for _, c := range copies {
		first := c.In
		for n := 0; n < len(all); n++ {
			next, is := in[first]
			if !is {
				break
			}
			first = next
		}
		k, known := of[first]
		if !known {
			k = len(out)
			of[first] = k
			out = append(out, []Recorded{all[first]})
		}
		out[k] = append(out[k], all[c.Of])
	}
	return out
}

// TellCopy says what a track is a copy of.
func TellCopy(all []Recorded, c identity.Copy, left bool) string {
	switch {
	case !c.Whole:
		return fmt.Sprintf("%s is for nine tenths or more in %s, and is kept", &all[c.Of], &all[c.In])
	case left:
		return fmt.Sprintf("%s is wholly in %s, and was left out, as requested", &all[c.Of], &all[c.In])
	}
	return fmt.Sprintf("%s is wholly in %s", &all[c.Of], &all[c.In])
}

// LeaveCopies takes tracks that are wholly in another one out of the inputs, and tells of them, and of those that only
// overlap with one.
func LeaveCopies(inputs []*format.Loaded) {
	files := make([]File, len(inputs))
	for i, in := range inputs {
		files[i] = File{Path: in.Path, Rel: filepath.Base(in.Path)}
	}
	var all []Recorded
	var from []int
	for i, name := range Apart(files) {
		recorded := RecordedIn(inputs[i].Data, name)
		for range recorded {
			from = append(from, i)
		}
		all = append(all, recorded...)
	}
	gone := map[int]bool{}
	for _, c := range CopiesOf(all) {
		gone[c.Of] = c.Whole
		inputs[from[c.Of]].Data.Tell(nav.ProblemSameRecordings, TellCopy(all, c, true))
	}
	n := 0
	for _, in := range inputs {
		begin := n
		n += len(in.Data.Tracks)
		i := begin - 1
		in.Data.Tracks = slices.DeleteFunc(in.Data.Tracks, func(nav.Track) bool { i++; return gone[i] })
	}
}
