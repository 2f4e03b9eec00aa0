package kml

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/pack"
	"gyrolith/core/format/unpack"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// FormatKMZ is KMZ, a KML document in a zip archive with the files that it refers to.
var FormatKMZ = &format.Format{
	Name:       "kmz",
	Title:      "zipped KML (writes 2.2 or kmz:2.3)",
	Extensions: []string{".kmz"},
	Brief:      "as KML, with pictures in the same archive",
	Sniff:      func(h *format.Head) bool { return bytes.HasPrefix(h.Raw, []byte("PK\x03\x04")) },
	Read:       readKMZ,
	Write:      writeKMZ,
	Holds:      format.Plainly(declaration("a KMZ")),
	Shapes:     format.SoundRings,
	Keeps:      "kml",
	Icons:      format.IconFiles,
	Versions:   []string{"2.2", "2.3"},
}

// keptAttachments is the most that is kept of the other files of an archive.
const keptAttachments = 64 << 20

func readKMZ(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	at, size, err := src.ReaderAt(opt.Unpacked())
	if err != nil {
		return nil, src.FaultOf(err)
	}
	z, err := zip.NewReader(at, size)
	if err != nil {
		data := salvageKMZ(at, size, src, opt)
		return data, &format.Error{Path: src.Path, Cut: data != nil, Msg: unpack.Damaged(err)}
	}
	members := slices.DeleteFunc(slices.Clone(z.File), func(f *zip.File) bool { return f.FileInfo().IsDir() })
	for _, f := range members {
		if clean := path.Clean("/" + strings.ReplaceAll(f.Name, "\\", "/")); strings.HasPrefix(f.Name, "/") ||
			clean != "/"+strings.TrimPrefix(strings.ReplaceAll(f.Name, "\\", "/"), "./") {
			return nil, src.Fault(fmt.Sprintf("the archive contains %q, a path that leads out of its folder; it was not opened",
				f.Name))
		}
	}
	limits := unpack.NewLimits(src, opt)
	root := rootMember(members, limits)
	if root == nil {
		return nil, src.Fault("the zip archive contains no KML document")
	}
	in, err := limits.Open(root)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	links := &linked{folder: path.Dir(root.Name), seen: map[string]bool{root.Name: true}}
	links.open = func(name string) (io.ReadCloser, int64, error) {
		i := slices.IndexFunc(members, func(f *zip.File) bool { return path.Clean(f.Name) == name })
		if i < 0 {
			return nil, 0, errors.New("the archive has no such file")
		}
		in, err := limits.Open(members[i])
		return in, int64(members[i].UncompressedSize64), err
	}
	data, err := readLinked(in, int64(root.UncompressedSize64), src.Path+":"+root.Name, opt, links)
	if damaged := unpack.Finish(in); damaged != nil {
		return nil, damaged
	}
	if err != nil {
		return data, err
	}
	kept := 0
	var documents, hidden []string
	defer func() {
		unpack.TellHidden(data, hidden)
		if len(documents) > 0 {
			data.Note(nav.ProblemLeftOut, "further documents of the archive were not read: "+strings.Join(documents, ", ")+
				"; unpack it to read them", 0, 0)
		}
	}()
	folder := strings.TrimPrefix(path.Dir(root.Name)+"/", "./") // what the document refers to is told from its folder
	for _, f := range members {
		if f == root || links.seen[path.Clean(f.Name)] {
			continue
		}
		if unpack.Hidden(f.Name) {
			hidden = append(hidden, f.Name)
			continue
		}
		if strings.EqualFold(path.Ext(f.Name), ".kml") {
			documents = append(documents, f.Name)
		}
		if kept+int(min(f.UncompressedSize64, keptAttachments)) > keptAttachments {
			data.Note(nav.ProblemLeftOut, "a file in the archive is too large to be kept and was left out", 0, 0)
			continue
		}
		if symbol.OfIcon(strings.TrimPrefix(f.Name, folder)) != "" { // ours, which is drawn anew
			continue
		}
		content, err := limits.ReadAll(f)
		if err != nil {
			return data, err
		}
		kept += len(content)
		data.Meta.Attachments = append(data.Meta.Attachments, nav.Attachment{Name: strings.TrimPrefix(f.Name, folder),
			Data: content})
	}
	return data, nil
}

// salvageKMZ reads what is there of the document in an archive whose end, with its list of members, is missing. It goes
// by the headers that stand before each member (PKWARE APPNOTE 6.3, section 4.3.7). It gives nil when there is none.
func salvageKMZ(at io.ReaderAt, size int64, src *format.Source, opt *format.ReadOptions) *nav.Dataset {
	const headerSize = 30
	for off := int64(0); off+headerSize < size; {
		var h [headerSize]byte
		if _, err := at.ReadAt(h[:], off); err != nil || string(h[:4]) != "PK\x03\x04" {
			return nil
		}
		le := binary.LittleEndian
		method, packed := le.Uint16(h[8:]), int64(le.Uint32(h[18:]))
		name := make([]byte, le.Uint16(h[26:]))
		if _, err := at.ReadAt(name, off+headerSize); err != nil {
			return nil
		}
		body := off + headerSize + int64(len(name)) + int64(le.Uint16(h[28:]))
		if strings.EqualFold(path.Ext(string(name)), ".kml") {
			var in io.Reader = io.NewSectionReader(at, body, max(size-body, 0))
			if method == zip.Deflate {
				in = flate.NewReader(in)
			}
			limited := unpack.NewLimits(src, opt).Bound(io.NopCloser(in), max(size-body, 1), string(name))
			data, _ := readFrom(endsAtFault{limited}, -1, src.Path+":"+string(name), opt)
			return data
		}
		if packed == 0 { // its size stands behind it: where the next one begins can't be told
			return nil
		}
		off = body + packed
	}
	return nil
}

// endsAtFault ends where its reader fails.
type endsAtFault struct{ io.Reader }

func (r endsAtFault) Read(b []byte) (int, error) {
	n, err := r.Reader.Read(b)
	if err != nil {
		err = io.EOF
	}
	return n, err
}

// rootMember finds the document: the first file that is KML by its content, doc.kml and those high up before
// the others.
func rootMember(members []*zip.File, limits *unpack.Limits) *zip.File {
	order := slices.Clone(members)
	weight := func(f *zip.File) int {
		w := 4 * strings.Count(f.Name, "/")
		if !strings.EqualFold(path.Base(f.Name), "doc.kml") {
			w++
		}
		if !strings.EqualFold(path.Ext(f.Name), ".kml") {
			w += 1000
		}
		return w
	}
	slices.SortStableFunc(order, func(a, b *zip.File) int { return weight(a) - weight(b) })
	for _, f := range order {
		in, err := limits.Open(f)
		if err != nil {
			continue
		}
		head := make([]byte, 16<<10)
		n, _ := io.ReadFull(in, head)
		in.Close()
		if isRoot(format.NewHead(head[:n]).Root) {
			return f
		}
	}
	return nil
}

func writeKMZ(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	z := pack.NewZip(out)
	// No time of writing: the same data give the same bytes.
	doc, err := z.CreateHeader(&zip.FileHeader{Name: "doc.kml", Method: zip.Deflate})
	if err != nil {
		return nil, err
	}
	done, err := writeTo(doc, d, opt)
	if err != nil {
		return nil, err
	}
	for _, a := range d.Meta.Attachments {
		if strings.EqualFold(a.Name, "doc.kml") {
			a.Name = "files/" + a.Name
		}
		f, err := z.CreateHeader(&zip.FileHeader{Name: a.Name, Method: zip.Deflate})
		if err != nil {
			return nil, err
		}
		if _, err := f.Write(a.Data); err != nil {
			return nil, err
		}
	}
	return done, z.Close()
}
