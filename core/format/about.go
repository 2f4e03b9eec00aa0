package format

import (
	"io"

	"gyrolith/core/nav"
)

// About says what a format holds of what describes a file as a whole.
type About struct {
	Title, Description bool
	Others             bool // author, copyright, licence, keywords, links and time
	Attachments        bool // the files that came with it in an archive
}

// lose tells what of the description of a file the format has no place for.
func (x *Format) lose(l *nav.Ledger, m *nav.Meta) {
	note := func(what nav.Property, has, held bool) {
		if has && !held {
			*l = append(*l, nav.Entry{KindWord: "file", What: what, Why: x.Name + " has no place for it", Count: 1, Loss: true})
		}
	}
	note("title of the file", m.Name != "", x.About.Title)
	note("description of the file", m.Desc != "", x.About.Description)
	note("author of the file", m.Author != "" || m.AuthorEmail != "" || len(m.AuthorLinks) > 0, x.About.Others)
	note("copyright of the file", m.Copyright != "" || m.CopyrightYear != "" || m.Licence != "", x.About.Others)
	note("keywords of the file", m.Keywords != "", x.About.Others)
	note("links of the file", len(m.Links) > 0, x.About.Others)
	if n := len(m.Attachments); n > 0 && !x.About.Attachments {
		*l = append(*l, nav.Entry{KindWord: "file", What: "attached files",
			Why: x.Name + " can't hold the files that came in the archive", Count: n, Loss: true})
	}
	note("time of the file", m.Time.HasTime(), x.About.Others)
}

// Store writes data in the format, and tells as well what the format has no place for by what it declares.
func (x *Format) Store(w io.Writer, d *nav.Dataset, opt *WriteOptions) (*Written, error) {
	done, err := x.Write(w, d, opt)
	if err == nil {
		x.lose(&done.Ledger, &d.Meta)
	}
	return done, err
}

// StoreSet gives the files of a format that has several, as Store writes one.
func (x *Format) StoreSet(d *nav.Dataset, opt *WriteOptions) ([]Part, *Written, error) {
	parts, done, err := x.Set(d, opt)
	if err == nil {
		x.lose(&done.Ledger, &d.Meta)
	}
	return parts, done, err
}
