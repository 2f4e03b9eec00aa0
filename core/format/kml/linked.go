package kml

import (
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"gyrolith/core/nav"
)

// linked are the documents of an archive that network links lead to.
type linked struct {
	folder string // of the document with the links
	open   func(name string) (io.ReadCloser, int64, error)
	seen   map[string]bool // which are read already, or just now
}

// find opens the document of a link; the error says why it can't be followed.
func (l *linked) find(href, target string) (io.ReadCloser, int64, error) {
	switch {
	case strings.Contains(href, "://") || !strings.HasSuffix(strings.ToLower(target), ".kml"):
		return nil, 0, errors.New("its data are elsewhere")
	case l.seen[target]:
		return nil, 0, errors.New("that is read already")
	}
	return l.open(target)
}

// networkLink reads the document that a link leads to, into a group of the link's name, where it stands in the same
// archive. Any other is told.
func (r *reader) networkLink() error {
	line, col := r.Pos()
	name, href := "", ""
	err := r.Children(func(local string) (err error) {
		switch local {
		case "name":
			name, err = r.LeafString()
			return err
		case "Link", "Url":
			return r.Children(func(local string) error {
				if local != "href" {
					return r.Pass()
				}
				href, err = r.LeafString()
				return err
			})
		}
		return r.Pass()
	})
	if err != nil {
		return err
	}
	target := path.Join(r.linked.folder, strings.TrimSpace(href))
	in, size, err := r.linked.find(href, target)
	if err != nil {
		r.data.Note(nav.ProblemLeftOut, fmt.Sprintf("the network link %q to %s was left out: %v; save what it shows to "+
			"a file", name, href, err), line, col)
		return nil
	}
	defer in.Close()
	r.linked.seen[target] = true
	further := *r.linked
	further.folder = path.Dir(target)
	data, err := readLinked(in, size, target, r.opt, &further)
	if err != nil {
		return err
	}
	group := strings.Trim(r.group+"/"+strings.ReplaceAll(name, "/", divisionSlash), "/")
	data.Each(func(_ nav.Kind, it *nav.Item) { it.Group = strings.Trim(group+"/"+it.Group, "/") })
	data.Meta = nav.Meta{}
	r.data.Merge(data)
	return nil
}
