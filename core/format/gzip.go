package format

import (
	"bytes"
	"compress/gzip"
	"errors"
	"io"

	"gyrolith/core/advice"
)

// gzipMagic begins a compressed file (RFC 1952, 2.3.1): its two bytes, and the one method that there is.
var gzipMagic = []byte{0x1f, 0x8b, 8}

// unpack has a compressed file read as what is in it.
func (s *Source) unpack() error {
	whole := io.MultiReader(bytes.NewReader(s.Head), s.rest)
	z, err := gzip.NewReader(whole)
	if err != nil {
		return s.Fault("is compressed, but its head is damaged: copy or fetch the file again")
	}
	s.zip = &unpacking{in: z, limits: ReadOptions{}}
	s.rest, s.file, s.Size = s.zip, nil, -1
	head := make([]byte, headBytes)
	n, err := io.ReadFull(s.rest, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return s.FaultOf(err)
	}
	s.Head = head[:n]
	return nil
}

// unpacking reads a compressed file up to the limit of what files may unpack to.
type unpacking struct {
	in     *gzip.Reader
	limits ReadOptions
	read   int64
}

func (u *unpacking) Read(b []byte) (int, error) {
	n, err := u.in.Read(b)
	switch u.read += int64(n); {
	case u.read > u.limits.Unpacked():
		return n, advice.Errorf(advice.AllowUnpacked, "unpacks to more than %d bytes", u.limits.Unpacked())
	case err != nil && err != io.EOF:
		return n, errors.New("the compressed file is cut off or damaged: copy or fetch it again")
	}
	return n, err
}
