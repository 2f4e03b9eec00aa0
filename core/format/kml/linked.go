package kml

import (
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
	if strings.Contains(href, "://") || !strings.HasSuffix(strings.ToLower(target), ".kml") || r.linked.seen[target] {
		r.data.Note(nav.ProblemLeftOut, fmt.Sprintf("the network link %q leads to %s, which is not in this file: save what it "+
			"shows to a file", name, href), line, col)
		return nil
	}
	in, size, err := r.linked.open(target)
	if err != nil {
		r.data.Note(nav.ProblemLeftOut, fmt.Sprintf("the network link %q leads to %s, which can't be read: %v", name, href,
			err), line, col)
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
