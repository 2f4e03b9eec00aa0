package picture

// crowd is a number of marks of which not every one can be told from its neighbours in a picture.
const crowd = 20_000

// marks are the places where marks have been drawn: of many on one pixel with one symbol, one is drawn; of a crowd, of
// those on nine pixels, and of several crowds on sixteen.
type marks struct {
	cell float64
	seen map[mark]string // with the names of those that were drawn
}

type mark struct {
	x, y   int
	symbol string
}

func newMarks(n int) *marks {
	m := &marks{1, map[mark]string{}}
	switch {
	case n > 4*crowd:
		m.cell = 4
	case n > crowd:
		m.cell = 3
	}
	return m
}

// crowdedOut says whether a mark is left out of a picture for another at its place, and notes its name then.
func (d *drawing) crowdedOut(m *marks, p XY, symbol, name string) bool {
	key := mark{int(p.X / m.cell), int(p.Y / m.cell), symbol}
	other, seen := m.seen[key]
	if !seen {
		m.seen[key] = name
	}
	if !seen || d.page {
		return false
	}
	if name != "" && name != other && d.view.frame.Has(p) {
		d.hidden = append(d.hidden, name)
	}
	return true
}
