package nav

import (
	"bytes"
	"fmt"
	"path"
	"slices"
	"strings"
)

// Merge adds the contents of another dataset. The title of the first stays; what describes the other stands behind what
// describes the first. An attachment whose name is taken by other contents gets a free name, which what refers to it
// follows. The other dataset is not to be used afterwards.
func (d *Dataset) Merge(o *Dataset) {
	if d.Origin != o.Origin {
		d.originate()
		o.originate()
		d.Origin = ""
	}
	if d.Shifted == "" {
		d.Shifted = o.Shifted
	}
	d.attach(o)
	d.Meta.join(&o.Meta)
	d.Waypoints = append(d.Waypoints, o.Waypoints...)
	d.Routes = append(d.Routes, o.Routes...)
	d.Tracks = append(d.Tracks, o.Tracks...)
	d.Areas = append(d.Areas, o.Areas...)
	d.Rejects = append(d.Rejects, o.Rejects...)
	for _, p := range o.Problems {
		i := slices.IndexFunc(d.Problems, func(q Problem) bool { return q.Code == p.Code && q.Text == p.Text })
		if i >= 0 {
			d.Problems[i].Count += p.Count
		} else {
			d.Problems = append(d.Problems, p)
		}
	}
}

// originate notes with each item of which file it is.
func (d *Dataset) originate() {
	if d.Origin == "" {
		return
	}
	origin := d.Origin
	d.Each(func(_ Kind, it *Item) {
		if it.Origin == nil {
			it.Origin = &origin
		}
	})
}

// join takes over what describes another file.
func (m *Meta) join(o *Meta) {
	if m.Blank() && len(m.Kept) == 0 {
		attachments := m.Attachments
		*m = *o
		m.Attachments = attachments
		return
	}
	add := func(to *string, more, between string) {
		switch {
		case more == "" || *to == more || strings.Contains(between+*to+between, between+more+between):
		case *to == "":
			*to = more
		default:
			*to += between + more
		}
	}
	desc := o.Desc
	switch {
	case o.Name == "" || o.Name == m.Name:
	case m.Name == "":
		m.Name = o.Name
	case desc == "":
		desc = o.Name
	default:
		desc = o.Name + ": " + desc
	}
	add(&m.Desc, desc, "\n\n")
	add(&m.Author, o.Author, "; ")
	add(&m.AuthorEmail, o.AuthorEmail, "; ")
	add(&m.Copyright, o.Copyright, "; ")
	add(&m.CopyrightYear, o.CopyrightYear, "; ")
	add(&m.Licence, o.Licence, "; ")
	add(&m.Keywords, o.Keywords, ", ")
	for _, x := range []struct{ to, from *[]Link }{{&m.Links, &o.Links}, {&m.AuthorLinks, &o.AuthorLinks}} {
		for _, l := range *x.from {
			if !slices.Contains(*x.to, l) {
				*x.to = append(*x.to, l)
			}
		}
	}
	if !m.Time.HasTime() {
		m.Time = o.Time
	}
	m.Kept = append(m.Kept, o.Kept...)
}

// attach takes over the attachments of another dataset.
func (d *Dataset) attach(o *Dataset) {
	have := map[string][]byte{}
	for _, a := range d.Meta.Attachments {
		have[a.Name] = a.Data
	}
	renamed := map[string]string{}
	for _, a := range o.Meta.Attachments {
		data, taken := have[a.Name]
		if taken && bytes.Equal(data, a.Data) {
			continue
		}
		if taken {
			ext := path.Ext(a.Name)
			stem := strings.TrimSuffix(a.Name, ext)
			old := a.Name
			for n := 2; taken; n++ {
				a.Name = fmt.Sprintf("%s-%d%s", stem, n, ext)
				_, taken = have[a.Name]
			}
			renamed[old] = a.Name
		}
		have[a.Name] = a.Data
		d.Meta.Attachments = append(d.Meta.Attachments, a)
	}
	if len(renamed) > 0 {
		o.rename(renamed)
	}
}

// rename brings what refers to attachments to their new names: icons, links, and texts that name them in quotes or as
// all that an element holds.
func (d *Dataset) rename(names map[string]string) {
	var pairs []string
	for old, is := range names {
		for _, around := range [][2]string{{`"`, `"`}, {`'`, `'`}, {">", "<"}} {
			pairs = append(pairs, around[0]+old+around[1], around[0]+is+around[1])
		}
	}
	texts := strings.NewReplacer(pairs...)
	whole := func(text *string) {
		if is, ok := names[*text]; ok {
			*text = is
		}
	}
	kept := func(list []Kept) {
		for i := range list {
			list[i].Text = texts.Replace(list[i].Text)
		}
	}
	item := func(x *Item) {
		whole(&x.Style.Icon)
		for i := range x.Links {
			whole(&x.Links[i].Href)
		}
		x.Desc = texts.Replace(x.Desc)
		kept(x.Kept)
	}
	d.Each(func(_ Kind, x *Item) { item(x) })
	for i := range d.Routes {
		for j := range d.Routes[i].Points {
			item(&d.Routes[i].Points[j].Item)
		}
	}
	d.Meta.Desc = texts.Replace(d.Meta.Desc)
	kept(d.Meta.Kept)
}
