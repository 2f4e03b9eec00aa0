// Package archive reads zip archives of data files as people mail them: shapefiles with what belongs to them, in
// folders or not, and files of any other format that is read.
package archive

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/unpack"
	"gyrolith/core/nav"
)

// Format is the archive. It is read only.
var Format = &format.Format{
	Name:       formatName,
	Title:      "zip archive of any of these files",
	Extensions: []string{".zip"},
	Brief:      "all data files in it, each as a group of items",
	Sniff: func(h *format.Head) bool {
		return bytes.HasPrefix(h.Raw, []byte("PK\x03\x04")) && !bytes.Contains(bytes.ToLower(h.Raw), []byte(".kml"))
	},
	Read: read,
}

const (
	formatName  = "zip"
	mostMembers = 10_000
)

// beside are the extensions of files that belong to another of the same name.
var beside = []string{".dbf", ".shx", ".prj", ".cpg", ".qix", ".sbn", ".sbx", ".qpj", ".xml"}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	if len(opt.Formats) == 0 {
		return nil, src.Fault("is an archive, whose files are read only among formats that are given")
	}
	at, size, err := src.ReaderAt(opt.Unpacked())
	if err != nil {
		return nil, src.FaultOf(err)
	}
	z, err := zip.NewReader(at, size)
	if err != nil {
		return nil, src.Fault(unpack.Damaged(err))
	}
	if len(z.File) > mostMembers {
		return nil, src.Fault(fmt.Sprintf("the archive has %d files, more than %d", len(z.File), mostMembers))
	}
	if slices.ContainsFunc(z.File, func(f *zip.File) bool { return strings.EqualFold(path.Ext(f.Name), ".kml") }) {
		whole, err := io.ReadAll(io.NewSectionReader(at, 0, size))
		if err != nil {
			return nil, src.FaultOf(err)
		}
		kmz := opt.Formats.ByName("kmz")
		if kmz == nil {
			return nil, src.Fault("is an archive of KML, which is not among the formats that are given")
		}
		return kmz.Read(format.FromBytes(src.Context(), src.Path, whole), opt)
	}
	r := &reader{src: src, opt: opt, limits: unpack.NewLimits(src, opt), members: map[string]*zip.File{},
		data: &nav.Dataset{}}
	for _, f := range z.File {
		r.members[strings.ToLower(f.Name)] = f
	}
	for _, f := range z.File {
		if err := r.member(f); err != nil {
			return nil, err
		}
	}
	if r.read == 0 {
		return nil, &format.Error{Path: src.Path, Other: true,
			Msg: "the zip archive contains no readable data file; " + strings.Join(r.passed, ", ")}
	}
	if len(r.passed) > 0 {
		r.data.Note(nav.ProblemLeftOut, "files in the archive without data were left out: "+strings.Join(r.passed, ", "),
			0, 0)
	}
	unpack.TellHidden(r.data, r.hidden)
	return r.data, nil
}

// reader gathers the data of an archive.
type reader struct {
	src     *format.Source
	opt     *format.ReadOptions
	members map[string]*zip.File // by their names in small letters
	limits  *unpack.Limits
	data    *nav.Dataset
	read    int
	passed  []string
	hidden  []string
}

func (r *reader) member(f *zip.File) error {
	ext := strings.ToLower(path.Ext(f.Name))
	stem := strings.TrimSuffix(strings.ToLower(f.Name), ext)
	if f.FileInfo().IsDir() || r.belongs(stem, ext) {
		return nil
	}
	if unpack.Hidden(f.Name) {
		r.hidden = append(r.hidden, f.Name)
		return nil
	}
	if ext != ".shp" && !r.isData(f) {
		r.passed = append(r.passed, f.Name)
		return nil
	}
	content, err := r.limits.ReadAll(f)
	if err != nil {
		return err
	}
	parts := map[string][]byte{}
	if ext == ".shp" {
		for _, e := range beside {
			if p := r.members[stem+e]; p != nil {
				if parts[e], err = r.limits.ReadAll(p); err != nil {
					return err
				}
			}
		}
	}
	in := format.WithParts(r.src.Context(), r.src.Path+":"+f.Name, content, parts)
	x, err := r.opt.Formats.Sniff(in)
	if err != nil || x.Name == formatName {
		r.passed = append(r.passed, f.Name)
		return nil
	}
	data, err := x.Read(in, r.opt)
	if err != nil {
		return err
	}
	name := path.Base(strings.TrimSuffix(f.Name, path.Ext(f.Name)))
	group(data, strings.ReplaceAll(name, "/", "\u2215"))
	for i := range data.Problems {
		data.Problems[i].Text = f.Name + ": " + data.Problems[i].Text
	}
	r.data.Merge(data)
	r.read++
	return nil
}

// isData says whether a member begins as something that is read. What is not, such as a tile of terrain, may be as
// large as it likes. A member that can't be read is one whose fault is to be told.
func (r *reader) isData(f *zip.File) bool {
	const head = 64 << 10
	in, err := f.Open()
	if err != nil {
		return true
	}
	defer in.Close()
	begin, err := io.ReadAll(io.LimitReader(in, head))
	if err != nil {
		return true
	}
	x, err := r.opt.Formats.Sniff(format.WithParts(r.src.Context(), r.src.Path+":"+f.Name, begin, nil))
	return err == nil && x.Name != formatName
}

// belongs says whether a member lies beside a shapefile of its name.
func (r *reader) belongs(stem, ext string) bool {
	if !slices.Contains(beside, ext) {
		return false
	}
	return r.members[stem+".shp"] != nil || r.members[strings.TrimSuffix(stem, ".shp")+".shp"] != nil
}

// group puts items without a group into one of a name.
func group(d *nav.Dataset, name string) {
	d.Each(func(_ nav.Kind, it *nav.Item) {
		if it.Group == "" {
			it.Group = name
		}
	})
}
