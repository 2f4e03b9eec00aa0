// Package unpack opens members of zip archives within the limits of a reading, whatever the archive says of its sizes.
package unpack

import (
	"archive/zip"
	"fmt"
	"io"

	"gyrolith/core/advice"
	"gyrolith/core/format"
)

// smallMember is unpacked whatever its ratio: short texts of few words pack very well.
const smallMember = 1 << 20

// Limits are what may still be unpacked of a source.
type Limits struct {
	src         *format.Source
	left, ratio int64
}

// NewLimits are those of a reading.
func NewLimits(src *format.Source, opt *format.ReadOptions) *Limits {
	return &Limits{src, opt.Unpacked(), opt.Ratio()}
}

// Damaged is the error of an archive that can't be opened.
func Damaged(err error) string {
	return "the zip archive is damaged or cut off (" + err.Error() + "): copy or fetch the file again"
}

// Open opens a member.
func (l *Limits) Open(f *zip.File) (io.ReadCloser, error) {
	in, err := f.Open()
	if err != nil {
		return nil, l.damaged(f.Name, err)
	}
	return l.Bound(in, int64(f.CompressedSize64), f.Name), nil
}

// Finish reads on to the end of a member, where its checksum stands. An error says that nothing read of it can be used.
func Finish(member io.Reader) error {
	_, err := io.Copy(io.Discard, member)
	return err
}

// ReadAll gives the contents of a member.
func (l *Limits) ReadAll(f *zip.File) ([]byte, error) {
	in, err := l.Open(f)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	return io.ReadAll(in)
}

// Bound ends the reading of a member of a packed size at the limits, with an error.
func (l *Limits) Bound(in io.ReadCloser, packed int64, name string) io.ReadCloser {
	return &bounded{in, l, 0, packed, name}
}

func (l *Limits) damaged(name string, err error) error {
	return l.src.Fault(fmt.Sprintf("the archive's %q is damaged (%v): copy or fetch the file again", name, err))
}

type bounded struct {
	io.ReadCloser
	limits *Limits
	read   int64
	packed int64
	name   string
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	b.read += int64(n)
	l := b.limits
	l.left -= int64(n)
	switch {
	case l.left < 0:
		return 0, l.src.FaultOf(advice.Errorf(advice.AllowUnpacked, "the archive unpacks to more than the limit"))
	case b.read > smallMember && b.read > l.ratio*max(b.packed, 1):
		return 0, l.src.FaultOf(advice.Errorf(advice.AllowRatio,
			"the archive's %q unpacks to more than %d times its size, which real data never do", b.name, l.ratio))
	case err != nil && err != io.EOF:
		return n, l.damaged(b.name, err)
	}
	return n, err
}
