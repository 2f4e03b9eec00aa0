package picture

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg" // the forms that a backdrop can have
	_ "image/png"
	"io"
	"math"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"

	_ "golang.org/x/image/tiff" // and TIFF

	"gyrolith/core/advice"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/safefile"
)

// mostPixels bounds what a picture may unpack to.
const mostPixels = 1 << 28

// OpenBackdrop reads a picture with a world file beside it, whose coordinates are WGS 84 or those of a system, or the
// picture that a KMZ lays over the ground.
func OpenBackdrop(name string, system *crs.System) (*Backdrop, error) {
	data, err := os.ReadFile(name)
	if err != nil {
		return nil, safefile.CannotRead(name, "picture", err)
	}
	if bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		b, err := groundOverlay(data)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		return b, nil
	}
	img, err := decodePicture(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	world, from, err := worldFile(name)
	if err != nil {
		return nil, err
	}
	pixel, err := world.pixel(system)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", from, err)
	}
	return &Backdrop{Image: img, Files: []string{from}, Pixel: pixel}, nil
}

func decodePicture(data []byte) (image.Image, error) {
	c, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, errors.New("is not a supported picture: use PNG, JPEG or TIFF")
	}
	if c.Width <= 0 || c.Height <= 0 || c.Width > mostPixels/c.Height {
		return nil, fmt.Errorf("is too large: %d by %d pixels", c.Width, c.Height)
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("can't be read: %w", err)
	}
	return img, nil
}

// world is what a world file says: x = A·column + B·row + C, y = D·column + E·row + F, of the middles of pixels.
type world struct{ A, D, B, E, C, F float64 }

// worldFile finds the world file of a picture: its first and last letter and w, its extension and w, or wld.
func worldFile(name string) (*world, string, error) {
	ext := strings.TrimPrefix(filepath.Ext(name), ".")
	stem := strings.TrimSuffix(name, filepath.Ext(name))
	var tried []string
	if len(ext) > 1 {
		tried = append(tried, ext[:1]+ext[len(ext)-1:]+"w", ext+"w")
	}
	tried = append(tried, "wld")
	for _, t := range tried {
		for _, e := range []string{t, strings.ToUpper(t)} {
			text, err := os.ReadFile(stem + "." + e)
			if err != nil {
				continue
			}
			w := &world{}
			fields := strings.Fields(strings.ReplaceAll(string(text), ",", "."))
			to := []*float64{&w.A, &w.D, &w.B, &w.E, &w.C, &w.F}
			if len(fields) < len(to) {
				return nil, "", fmt.Errorf("%s.%s: has %d numbers, but a world file has six", stem, e, len(fields))
			}
			for i := range to {
				if *to[i], err = strconv.ParseFloat(fields[i], 64); err != nil {
					return nil, "", fmt.Errorf("%s.%s:%d: %q is not a number", stem, e, i+1, fields[i])
				}
			}
			return w, stem + "." + e, nil
		}
	}
	return nil, "", fmt.Errorf("%s: has no world file beside it (%s) with its location", name,
		"."+strings.Join(tried, ", ."))
}

func (w *world) pixel(system *crs.System) (func(lat, lon float64) (x, y float64, ok bool), error) {
	det := w.A*w.E - w.B*w.D
	if det == 0 || math.IsNaN(det) {
		return nil, errors.New("has numbers that don't define a location")
	}
	if system.WGS84() && (math.Abs(w.C) > 181 || math.Abs(w.F) > 91) {
		return nil, advice.Errorf(advice.NameSystem, "has coordinates that are not degrees")
	}
	return func(lat, lon float64) (float64, float64, bool) {
		x, y, ok := system.Forward(lat, lon)
		x, y = x-w.C, y-w.F
		return (w.E*x-w.B*y)/det + 0.5, (w.A*y-w.D*x)/det + 0.5, ok
	}, nil
}

// groundOverlay finds the first picture that a KMZ lays over the ground (OGC 12-007r2, 11.2).
func groundOverlay(data []byte) (*Backdrop, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("can't be read as a KMZ: %w", err)
	}
	read := func(name string) ([]byte, error) {
		for _, f := range z.File {
			if f.Name == name || path.Clean(f.Name) == path.Clean(name) {
				r, err := f.Open()
				if err != nil {
					return nil, err
				}
				defer r.Close()
				content, err := io.ReadAll(io.LimitReader(r, mostPixels+1)) // to its end, where its checksum stands
				if err == nil && len(content) > mostPixels {
					err = fmt.Errorf("unpacks to more than %d bytes", mostPixels)
				}
				return content, err
			}
		}
		return nil, fmt.Errorf("has no member %q", name)
	}
	for _, f := range z.File {
		if !strings.EqualFold(path.Ext(f.Name), ".kml") {
			continue
		}
		text, err := read(f.Name)
		if err != nil {
			return nil, err
		}
		href, box, err := overlayOf(text)
		if err != nil {
			return nil, err
		}
		if href == "" {
			continue
		}
		picture, err := read(href)
		if err != nil {
			return nil, fmt.Errorf("has a ground overlay whose picture is not in it (%s)", href)
		}
		img, err := decodePicture(picture)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", href, err)
		}
		return &Backdrop{Image: img, Pixel: box.pixel(img.Bounds().Dx(), img.Bounds().Dy())}, nil
	}
	return nil, errors.New("has no ground overlay")
}

// latLonBox is where a ground overlay lies; it is turned counter-clockwise about its middle.
type latLonBox struct{ north, south, east, west, rotation float64 }

func (b *latLonBox) pixel(w, h int) func(lat, lon float64) (float64, float64, bool) {
	east := b.east
	if east < b.west {
		east += 360
	}
	midLat, midLon := (b.north+b.south)/2, (b.west+east)/2
	sin, cos := math.Sincos(-b.rotation * radian)
	return func(lat, lon float64) (float64, float64, bool) {
		x, y := math.Remainder(lon-midLon, 360), lat-midLat
		x, y = x*cos-y*sin, x*sin+y*cos
		return (x/(east-b.west) + 0.5) * float64(w), (0.5 - y/(b.north-b.south)) * float64(h), b.north > b.south &&
			east > b.west
	}
}

// overlayOf reads the address and the box of the first ground overlay of a KML text.
func overlayOf(text []byte) (href string, box *latLonBox, err error) {
	s, err := xmlscan.New(bytes.NewReader(text), xmlscan.Limits{})
	if err != nil {
		return "", nil, err
	}
	inside := false
	b := &latLonBox{}
	for {
		kind, err := s.Next()
		if err != nil {
			return "", nil, err
		}
		switch {
		case kind == xmlscan.EOF:
			return "", nil, nil
		case kind == xmlscan.End && inside && href != "" && b.north != b.south && s.Local() == "GroundOverlay":
			return href, b, nil
		case kind != xmlscan.Start:
			continue
		}
		local := s.Local()
		if local == "GroundOverlay" {
			inside = true
			continue
		}
		if !inside {
			continue
		}
		to := map[string]*float64{"north": &b.north, "south": &b.south, "east": &b.east, "west": &b.west,
			"rotation": &b.rotation}[local]
		switch {
		case to != nil:
			text, err := s.LeafString()
			if err != nil {
				return "", nil, err
			}
			*to, _ = strconv.ParseFloat(text, 64)
		case local == "href":
			if href, err = s.LeafString(); err != nil {
				return "", nil, err
			}
		}
		if href != "" && b.north != b.south && b.east != b.west && local == "west" {
			return href, b, nil
		}
	}
}
