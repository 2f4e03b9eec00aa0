package card

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"path/filepath"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/safefile"
)

// ManifestName is the file at the root of a card that lists what was written on it.
const ManifestName = "gyrolith-manifest.json"

// Manifest lists the files of a stow and their sums. It is unfinished from before the first file gets its name until
// after the last one has.
type Manifest struct {
	Unit     string         `json:"unit"`
	Version  int            `json:"version,omitempty"` // of the unit's cards
	Finished bool           `json:"finished"`
	Archive  string         `json:"archive,omitempty"` // where the files that were replaced are
	Files    []ManifestFile `json:"files"`
	Gone     []ManifestFile `json:"gone,omitempty"`   // files that go off the card, while the stow is unfinished
	Things   []Recorded     `json:"things,omitempty"` // what the unit shows
	Before   *Manifest      `json:"before,omitempty"` // of the stow before, while this one is unfinished
	After    *string        `json:"after,omitempty"`  // of an unfinished restore: the manifest to be; "" is none
}

// ManifestFile is one file of a stow.
type ManifestFile struct {
	Path    string `json:"path"`
	Bytes   int    `json:"bytes"`
	SHA256  string `json:"sha256"`
	Part    string `json:"part,omitempty"`    // its name while the stow is unfinished
	Replace string `json:"replace,omitempty"` // the sum of the file that it replaces; "" where there was none
}

func sumOf(b []byte) string {
	s := sha256.Sum256(b)
	return hex.EncodeToString(s[:])
}

// readManifest reads a card's manifest; nil where it has none.
func readManifest(root medium) (*Manifest, error) {
	text, err := root.ReadFile(ManifestName)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("%s can't be read: %w", ManifestName, err)
	}
	return parseManifest(text)
}

// parseManifest reads the text of a manifest.
func parseManifest(text []byte) (*Manifest, error) {
	m := &Manifest{}
	if err := json.Unmarshal(text, m); err != nil {
		return nil, fmt.Errorf("%s is damaged (%v)", ManifestName, err)
	}
	files := m.Files
	files = slices.Concat(files, m.Gone)
	if m.Before != nil {
		files = slices.Concat(files, m.Before.Files)
	}
	for _, f := range files {
		if !fs.ValidPath(f.Path) {
			return nil, fmt.Errorf("%s is damaged: it names %q", ManifestName, f.Path)
		}
		part := filepath.ToSlash(f.Part)
		if part != "" && (!fs.ValidPath(part) || !safefile.IsPart(path.Base(part)) || path.Dir(part) != path.Dir(f.Path)) {
			return nil, fmt.Errorf("%s is damaged: it names %q", ManifestName, f.Part)
		}
	}
	return m, nil
}

// Of gives the unit, and the version of its cards, that a card was written for; "" where that is not known.
func Of(card string) (unit string, version int) {
	root, err := open(card)
	if err != nil {
		return "", 0
	}
	defer root.Close()
	m, err := readManifest(root)
	if err != nil || m == nil {
		return "", 0
	}
	return m.Unit, m.Version
}

// text is the manifest as it stands on a card.
func (m *Manifest) text() ([]byte, error) {
	if len(m.Things) == 0 {
		text, err := json.MarshalIndent(m, "", " ")
		return append(text, '\n'), err
	}
	text, err := json.Marshal(m) // a line a thing
	text = bytes.ReplaceAll(text, []byte(`},{"kind":`), []byte("},\n{\"kind\":"))
	return append(text, '\n'), err
}

// Unfinished is the error for a card on which a stow was broken off.
type Unfinished struct {
	Card     string
	Manifest *Manifest
	Done     int // files that have their names
}

func (u *Unfinished) Error() string {
	work := "stow on"
	if u.Manifest.After != nil {
		work = "restore of"
	}
	return fmt.Sprintf("%s: a %s this card was interrupted with %d of %d files in place", u.Card, work, u.Done,
		len(u.Manifest.Files))
}

// Advised says that the stow can be finished or undone.
func (u *Unfinished) Advised() advice.Advice {
	return advice.Advice{Code: advice.FinishOrUndo, Arg: u.Card}
}

// CheckFinished gives an Unfinished error for a card on which a stow was broken off.
func CheckFinished(card string) error {
	root, err := open(card)
	if err != nil {
		return err
	}
	defer root.Close()
	m, err := readManifest(root)
	if err != nil || m == nil || m.Finished {
		return nil // a damaged manifest is told by those who need it
	}
	return &Unfinished{card, m, m.done(root)}
}

// done counts the files that are as they are meant to be.
func (m *Manifest) done(root medium) (n int) {
	for _, f := range m.Files {
		if content, err := root.ReadFile(f.Path); err == nil && sumOf(content) == f.SHA256 {
			n++
		}
	}
	return
}

// Checked says how one file of a manifest was found.
type Checked struct {
	Path string `json:"path"`
	Why  string `json:"why"` // "" where it is as it was written
}

// Verify holds a card against its manifest, and writes nothing.
func Verify(card string) (*Manifest, []Checked, error) {
	root, err := open(card)
	if err != nil {
		return nil, nil, err
	}
	defer root.Close()
	m, err := readManifest(root)
	if err != nil {
		return nil, nil, fmt.Errorf("%s: %w", card, err)
	}
	if m == nil {
		return nil, nil, fmt.Errorf("%s: the card has no %s: nothing was stowed on it, or the file was removed", card,
			ManifestName)
	}
	if !m.Finished {
		return nil, nil, &Unfinished{card, m, m.done(root)}
	}
	var out []Checked
	for _, f := range m.Files {
		c := Checked{Path: f.Path}
		content, err := root.ReadFile(f.Path)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			c.Why = "is missing"
		case err != nil:
			c.Why = "can't be read: " + reason(err)
		case len(content) != f.Bytes:
			c.Why = fmt.Sprintf("has %d bytes instead of %d", len(content), f.Bytes)
		case sumOf(content) != f.SHA256:
			c.Why = "was changed: its checksum differs"
		}
		out = append(out, c)
	}
	return m, out, nil
}
