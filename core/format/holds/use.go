package holds

import (
	"slices"

	"gyrolith/core/identity"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// ItemUses lists what an item has, but for what is of its points.
func ItemUses(it *nav.Item) (s Set) {
	put := func(p Property, has bool) {
		if has {
			s |= 1 << p
		}
	}
	put(ID, it.ID != "" && !identity.Local(it.ID)) // which means nothing in another file
	put(Name, it.Name != "")
	put(Comment, it.Comment != "")
	put(Description, it.Desc != "")
	put(Source, it.Source != "")
	put(Type, it.Type != "")
	put(Number, it.Number != "")
	put(Group, it.Group != "")
	put(Parts, it.Whole != nil)
	put(Fields, len(it.Fields) > 0)
	put(Details, len(it.Kept) > 0)
	if it.Style != (nav.Style{}) {
		st := &it.Style
		put(Symbol, st.Symbol != "")
		put(Icon, st.Icon != "")
		put(IconScale, st.IconScale != 0)
		put(Colour, st.Colour.Set)
		put(Width, st.Width != 0)
		put(Fill, st.Fill.Set)
		put(Outline, st.NoFill || st.NoOutline)
	}
	for i := range it.Fields {
		put(FieldTypes, it.Fields[i].Literal)
	}
	for i := range it.Links {
		l := &it.Links[i]
		put(Links, l.Href != "")
		put(LinkTexts, l.Text != "" || l.Type != "")
	}
	return
}

// PointUses lists what a position has.
func PointUses(p *nav.Point) (s Set) {
	if p.HasHeight() {
		s |= 1 << Height
		if p.VerticalDatum() != nav.DatumUnstated {
			s |= 1 << HeightReference
		}
	}
	if p.HasTime() {
		s |= 1 << Time
		if p.TimeMark() < instant.Seconds {
			s |= 1 << TimePrecision
		}
	}
	return
}

// qualities are the readings of a receiver that say how good a fix is, by the names of GPX 1.1.
var qualities = []string{"fix", "sat", "hdop", "vdop", "pdop", "ageofdgpsdata", "dgpsid"}

// ReadingOf says which property a value of a track's point is, by its key.
func ReadingOf(key string) Property {
	switch {
	case key == "speed":
		return Speed
	case key == "course":
		return Course
	case slices.Contains(qualities, key):
		return FixQuality
	}
	return Readings
}

// DetailUses lists what a point of a track has besides its position.
func DetailUses(d *nav.Detail) (s Set) {
	for i := range d.Values {
		s |= 1 << ReadingOf(d.Values[i].Key)
		if d.Values[i].Literal {
			s |= 1 << FieldTypes
		}
	}
	if len(d.Kept) > 0 {
		s |= 1 << Details
	}
	if d.Item != nil {
		s |= ItemUses(d.Item)
	}
	return
}

// FileUses lists what is said of a file as a whole.
func FileUses(m *nav.Meta) (s Set) {
	put := func(p Property, has bool) {
		if has {
			s |= 1 << p
		}
	}
	put(Title, m.Name != "")
	put(Description, m.Desc != "")
	put(Author, m.Author != "" || m.AuthorEmail != "" || len(m.AuthorLinks) > 0)
	put(Copyright, m.Copyright != "" || m.CopyrightYear != "" || m.Licence != "")
	put(Keywords, m.Keywords != "")
	put(Attachments, slices.ContainsFunc(m.Attachments, nav.Attachment.OnlyHere))
	put(Details, len(m.Kept) > 0)
	for i := range m.Links {
		put(Links, m.Links[i].Href != "")
		put(LinkTexts, m.Links[i].Text != "" || m.Links[i].Type != "")
	}
	return s | PointUses(&m.Time)&(1<<Time|1<<TimePrecision)
}

// RouteUses lists what a route has, but for what is of its points.
func RouteUses(r *nav.Route) Set { return ItemUses(&r.Item) | lengthUses(len(r.Points)) }

func lengthUses(n int) Set {
	switch n {
	case 0:
		return 1 << Empty
	case 1:
		return 1 << OnePoint
	}
	return 0
}

// TrackUses lists what a track has, but for what is of its points.
func TrackUses(t *nav.Track) Set {
	s, parts := ItemUses(&t.Item), 0
	for i := range t.Segments {
		switch len(t.Segments[i].Points) {
		case 0:
			continue
		case 1:
			s |= 1 << OnePoint
		}
		parts++
	}
	switch {
	case parts == 0:
		s |= 1 << Empty
	case parts > 1:
		s |= 1 << Segments
	}
	return s
}

// AreaUses lists what an area has, the heights and times of its outline among it.
func AreaUses(a *nav.Area) Set {
	s := ItemUses(&a.Item)
	if len(a.Outline) == 0 {
		s |= 1 << Empty
	}
	if len(a.Holes) > 0 {
		s |= 1 << Holes
	}
	for i := range a.Outline {
		s |= PointUses(&a.Outline[i])
	}
	for _, hole := range a.Holes {
		for i := range hole {
			s |= PointUses(&hole[i])
		}
	}
	return s
}
