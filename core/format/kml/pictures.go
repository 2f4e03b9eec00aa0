package kml

import (
	"io"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// pictureExts are the extensions of the pictures that are carried along.
var pictureExts = []string{".png", ".jpg", ".jpeg", ".gif", ".webp", ".bmp", ".svg", ".tif", ".tiff"}

// attachBeside keeps the pictures that stand beside a document, in its folder or below, and that its icons and links
// name, as those of an archive are kept.
func attachBeside(src *format.Source, d *nav.Dataset) {
	if src.File() == "" || d == nil {
		return
	}
	root, err := os.OpenRoot(filepath.Dir(src.File()))
	if err != nil {
		return
	}
	defer root.Close()
	seen, kept := map[string]bool{}, int64(0)
	attach := func(href string) {
		name, err := url.PathUnescape(href)
		if name = path.Clean(name); err != nil || seen[href] || !filepath.IsLocal(name) ||
			!slices.Contains(pictureExts, strings.ToLower(path.Ext(name))) {
			return
		}
		seen[href] = true
		info, err := root.Stat(name)
		if err != nil || !info.Mode().IsRegular() {
			return
		}
		if kept += info.Size(); kept > keptAttachments {
			d.Note(nav.ProblemLeftOut, "a picture beside the file is too large to be kept and was left out: "+name, 0, 0)
			return
		}
		if f, err := root.Open(name); err == nil {
			defer f.Close()
			if data, err := io.ReadAll(f); err == nil {
				d.Meta.Attachments = append(d.Meta.Attachments, nav.Attachment{Name: name, Data: data, Beside: true})
			}
		}
	}
	d.Each(func(_ nav.Kind, it *nav.Item) {
		attach(it.Style.Icon)
		for i := range it.Links {
			attach(it.Links[i].Href)
		}
	})
	if n := len(d.Meta.Attachments); n > 0 {
		d.Tell(nav.ProblemPictures, measure.Counted(n, "picture", "pictures")+" beside the file: a KMZ takes them along")
	}
}
