package when

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/bep/imagemeta"
)

// pictureForms are the forms of pictures, by extension.
var pictureForms = map[string]imagemeta.ImageFormat{".jpg": imagemeta.JPEG, ".jpeg": imagemeta.JPEG,
	".tif": imagemeta.TIFF, ".tiff": imagemeta.TIFF, ".heic": imagemeta.HEIF, ".heif": imagemeta.HEIF,
	".webp": imagemeta.WebP, ".png": imagemeta.PNG}

// IsPicture says whether a name is that of a picture with a time.
func IsPicture(path string) bool {
	_, ok := pictureForms[strings.ToLower(filepath.Ext(path))]
	return ok
}

// exifTime is how Exif writes times (CIPA DC-008, 4.6.5).
const exifTime = "2006:01:02 15:04:05"

// ReadPicture reads when a picture was taken, by its Exif data: in the zone that it names, else in the given one.
func ReadPicture(path string, m *Moments) (Asked, error) {
	f, err := os.Open(path)
	if err != nil {
		return Asked{}, err
	}
	defer f.Close()
	wanted := []string{"DateTimeOriginal", "SubSecTimeOriginal", "OffsetTimeOriginal", "DateTime", "OffsetTime",
		"DateTimeDigitized"}
	found := map[string]string{}
	_, err = imagemeta.Decode(imagemeta.Options{R: f, ImageFormat: pictureForms[strings.ToLower(filepath.Ext(path))],
		Sources:         imagemeta.EXIF,
		ShouldHandleTag: func(t imagemeta.TagInfo) bool { return slices.Contains(wanted, t.Tag) },
		HandleTag: func(t imagemeta.TagInfo) error {
			if _, ok := found[t.Tag]; !ok {
				found[t.Tag] = strings.Trim(fmt.Sprint(t.Value), "\x00 ")
			}
			return nil
		}})
	if err != nil {
		return Asked{}, fmt.Errorf("%s: its Exif data can't be read: %w", path, err)
	}
	text, offset := "", found["OffsetTimeOriginal"]
	for _, tag := range []string{"DateTimeOriginal", "DateTimeDigitized", "DateTime"} {
		if text = found[tag]; text != "" {
			break
		}
	}
	if text == "" {
		return Asked{}, fmt.Errorf("%s: the picture doesn't record when it was taken", path)
	}
	zone := m.Zone
	if zone == nil {
		zone = time.UTC
	}
	if offset == "" {
		offset = found["OffsetTime"]
	}
	if t, err := time.Parse("-07:00", offset); err == nil {
		zone = t.Location()
	}
	shown, err := time.Parse(exifTime, text)
	if err != nil {
		return Asked{}, fmt.Errorf("%s: %q is not a valid Exif time", path, text)
	}
	at := m.local(shown, zone, filepath.Base(path)+": "+text)
	if part, err := time.ParseDuration("0." + found["SubSecTimeOriginal"] + "s"); err == nil &&
		found["SubSecTimeOriginal"] != "" {
		at = at.Add(part)
	}
	return Asked{Name: filepath.Base(path), Path: path, At: at}, nil
}
