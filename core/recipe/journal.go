package recipe

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"gyrolith/core/advice"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// Entry is one line of the journal: what was done for one input, with the sums of all that took part. It holds no
// times, so that the same work gives the same lines.
type Entry struct {
	Run *Head `json:"run,omitempty"` // the first line of each run, in place of an entry

	Input   string            `json:"input,omitempty"`
	Sum     string            `json:"sum,omitempty"`
	Recipe  string            `json:"recipe,omitempty"` // of the recipe with its values
	With    string            `json:"with,omitempty"`   // of rules, terrain, profiles and other files
	Program string            `json:"program,omitempty"`
	Status  Status            `json:"status,omitempty"`
	Why     string            `json:"why,omitempty"`
	Advice  advice.Advice     `json:"-"`
	Strict  bool              `json:"strict,omitempty"`  // refused for a loss or a finding alone
	Nothing bool              `json:"nothing,omitempty"` // refused since nothing was taken, or is left
	Changes int               `json:"changes,omitempty"`
	Lost    int               `json:"lost,omitempty"`
	Counts  []nav.Count       `json:"counts,omitempty"`  // such as how many points were given a height
	Remarks []Remark          `json:"remarks,omitempty"` // of what was left out, or chosen without effect
	Outputs map[string]string `json:"outputs,omitempty"` // names below the folder, and their sums
	Before  map[string]string `json:"before,omitempty"`  // those of runs before, while these get their names
}

// Remark is something that one should know of an input.
type Remark struct {
	Text   string        `json:"text"`
	Advice advice.Advice `json:"-"`
}

// Head tells of one run.
type Head struct {
	Recipe string `json:"recipe"`
	Share  string `json:"share"`
	Inputs int    `json:"inputs"`           // of this share
	All    string `json:"all,omitempty"`    // the sum of the names and sizes of all inputs, whatever the share
	Merged bool   `json:"merged,omitempty"` // put together of those of shares
	By     string `json:"by,omitempty"`     // the machine that ran it
	Round  int    `json:"round,omitempty"`  // counts up where the number of shares changes; 0 is the first
}

// Status is how an input came out.
type Status string

// The ends of an input.
const (
	Done    Status = "done"
	Refused Status = "refused"
	Other   Status = "other" // found in a folder, and no data
	Kept    Status = "kept"  // done before, and nothing has changed since
)

// JournalName is the file of a share's journal.
func JournalName(s Share) string {
	if s.Of <= 1 {
		return "journal.jsonl"
	}
	return fmt.Sprintf("journal-%d-of-%d.jsonl", s.Part, s.Of)
}

// Journal remembers what was done before, and adds a line to its file when something more is done.
type Journal struct {
	path    string
	file    *os.File
	entries map[string]*Entry   // the last of each input
	current map[string]*Entry   // those of the last run
	others  map[string][]*Entry // what journals of other shares say of the inputs
	begins  int64               // where in the file the last run does
	size    int64               // of the file
	Head    *Head
	mu      sync.Mutex
}

// ReadJournal reads a journal. A last line that was cut off, as by a crash, is as if it were not there; whole says up
// to where the file is sound.
func ReadJournal(path string) (j *Journal, whole int64, err error) {
	j = &Journal{path: path, entries: map[string]*Entry{}, current: map[string]*Entry{}}
	f, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return j, 0, nil
	}
	if err != nil {
		return nil, 0, err
	}
	defer f.Close()
	in := bufio.NewReader(f)
	for line := 1; ; line++ {
		text, err := in.ReadBytes('\n')
		if err == io.EOF {
			return j, whole, nil // what has no end was being written
		}
		if err != nil {
			return nil, 0, err
		}
		var e Entry
		if err := json.Unmarshal(text, &e); err != nil {
			if _, more := in.Peek(1); more == io.EOF {
				return j, whole, nil
			}
			return nil, 0, fmt.Errorf("%s:%d: is not a journal line", path, line)
		}
		if e.Run != nil {
			j.Head, j.begins = e.Run, whole
			clear(j.current)
		} else {
			j.entries[e.Input], j.current[e.Input] = &e, &e
		}
		whole += int64(len(text))
	}
}

// OpenJournal opens a journal to go on with it.
func OpenJournal(path string) (*Journal, error) {
	j, whole, err := ReadJournal(path)
	if err != nil {
		return nil, err
	}
	if j.file, err = os.OpenFile(path, os.O_WRONLY|os.O_CREATE, 0o666); err != nil {
		return nil, err
	}
	j.current, j.size = nil, whole // which only a merge asks for
	if err = j.file.Truncate(whole); err == nil {
		_, err = j.file.Seek(whole, io.SeekStart)
	}
	return j, err
}

// Find gives what was done for an input before; nil if nothing.
func (j *Journal) Find(rel string) *Entry {
	if all := j.all(rel); len(all) > 0 {
		return all[0]
	}
	return nil
}

// all gives what this journal and those of other shares say of an input.
func (j *Journal) all(rel string) []*Entry {
	j.mu.Lock()
	defer j.mu.Unlock()
	if own := j.entries[rel]; own != nil {
		return append([]*Entry{own}, j.others[rel]...)
	}
	return j.others[rel]
}

// numberOf is of how many shares a journal is, by its name.
func numberOf(path string) int {
	var part, of int
	if _, err := fmt.Sscanf(filepath.Base(path), "journal-%d-of-%d.jsonl", &part, &of); err != nil {
		return 1
	}
	return of
}

// Borrow takes up what the other journals in the folder say of inputs, as a run with another number of shares left
// them, and the round of this run.
func (j *Journal) Borrow(dir string, of int, wanted map[string]bool) (round int, err error) {
	paths, err := filepath.Glob(filepath.Join(dir, "journal*.jsonl"))
	j.others = map[string][]*Entry{}
	asked := false // one journal of as many shares tells the round, and has no input of this one
	for _, path := range paths {
		if path == j.path || asked && numberOf(path) == of {
			continue
		}
		asked = asked || numberOf(path) == of
		other, _, err := ReadJournal(path)
		if err != nil {
			return 0, err
		}
		for rel, e := range other.entries {
			if wanted[rel] {
				j.others[rel] = append(j.others[rel], e)
			}
		}
		if other.Head == nil {
			continue
		}
		share, err := ParseShare(other.Head.Share)
		switch {
		case err != nil, other.Head.Merged:
		case share.Of != of:
			round = max(round, other.Head.Round+1)
		default:
			round = max(round, other.Head.Round)
		}
	}
	if j.Head != nil {
		round = max(round, j.Head.Round)
	}
	return round, err
}

// Finish leaves the last run in the file, once that is whole, and before it what is known of other inputs.
func (j *Journal) Finish() error {
	if j.file == nil || j.begins == 0 {
		return nil
	}
	from, err := os.Open(j.path)
	if err != nil {
		return err
	}
	defer from.Close()
	p, err := safefile.CreateOver(j.path)
	if err != nil {
		return err
	}
	defer p.Discard()
	enc := json.NewEncoder(p)
	enc.SetEscapeHTML(false)
	for _, e := range j.Entries() { // of inputs that this run did not have
		if err := enc.Encode(e); err != nil {
			return err
		}
	}
	if _, err := io.Copy(p, io.NewSectionReader(from, j.begins, j.size-j.begins)); err != nil {
		return err
	}
	_, err = p.Commit()
	return err
}

// Add writes a line, whole.
func (j *Journal) Add(e *Entry) error {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(e); err != nil {
		return err
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	switch {
	case e.Run != nil:
		j.Head, j.begins = e.Run, j.size
	case j.file == nil:
		j.entries[e.Input] = e
	default: // an input is asked for once in a run: what is done need not stay in memory
		delete(j.entries, e.Input)
	}
	if j.file == nil {
		return nil
	}
	n, err := j.file.Write(b.Bytes())
	j.size += int64(n)
	return err
}

// Close flushes the journal to the medium.
func (j *Journal) Close() error {
	if j.file == nil {
		return nil
	}
	return errors.Join(j.file.Sync(), j.file.Close())
}

// Entries lists what was done, by the inputs' names.
func (j *Journal) Entries() []*Entry {
	out := make([]*Entry, 0, len(j.entries))
	for _, name := range slices.Sorted(keysOf(j.entries)) {
		out = append(out, j.entries[name])
	}
	return out
}

// Merge puts the journals of all shares of one run together. It refuses what does not belong together or is not
// complete.
func Merge(paths []string) (*Journal, error) {
	out := &Journal{entries: map[string]*Entry{}}
	shares := map[string]string{}
	of, round, all := 0, 0, ""
	for _, p := range paths {
		j, _, err := ReadJournal(p)
		if err != nil {
			return nil, err
		}
		if j.Head == nil {
			return nil, fmt.Errorf("%s: is not a run's journal", p)
		}
		switch { // what a run with another number of shares left is over
		case out.Head != nil && j.Head.Round < round:
			continue
		case out.Head != nil && j.Head.Round > round:
			out, of, all = &Journal{entries: map[string]*Entry{}}, 0, ""
			clear(shares)
		}
		round = j.Head.Round
		share, err := ParseShare(j.Head.Share)
		switch {
		case err != nil:
			return nil, fmt.Errorf("%s: %w", p, err)
		case out.Head != nil && out.Head.Recipe != j.Head.Recipe:
			return nil, fmt.Errorf("%s: belongs to another recipe, or to other values, than the journals before it", p)
		case of != 0 && share.Of != of:
			return nil, fmt.Errorf("%s: is a share of %d, but those before it are of %d", p, share.Of, of)
		case shares[j.Head.Share] != "":
			return nil, fmt.Errorf("%s: is share %s, as is %s", p, j.Head.Share, shares[j.Head.Share])
		case all != "" && j.Head.All != all:
			return nil, fmt.Errorf("%s: its run found other inputs than those before it: run share %s again, or the others", p,
				j.Head.Share)
		}
		all = j.Head.All
		of, shares[j.Head.Share] = share.Of, p
		if out.Head == nil {
			out.Head = &Head{Recipe: j.Head.Recipe, Share: "1/1", Merged: true}
		}
		out.Head.Inputs += j.Head.Inputs
		n := 0
		for name, e := range j.current {
			if e.Recipe == j.Head.Recipe && e.Status != writing {
				out.entries[name] = e
				n++
			}
		}
		if n < j.Head.Inputs {
			return nil, fmt.Errorf("%s: its last run has %d of its %d inputs: run share %s again to do the rest", p, n,
				j.Head.Inputs, j.Head.Share)
		}
	}
	var missing []string
	for part := 1; part <= of; part++ {
		if name := (Share{part, of}).String(); shares[name] == "" {
			missing = append(missing, name)
		}
	}
	if len(missing) > 0 {
		return nil, fmt.Errorf("the journals of %s are missing", strings.Join(missing, ", "))
	}
	return out, nil
}

// WriteTo writes the journal anew, its lines in the order of the inputs' names.
func (j *Journal) WriteTo(w io.Writer) (int64, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.Encode(Entry{Run: j.Head})
	for _, e := range j.Entries() {
		enc.Encode(e)
	}
	return b.WriteTo(w)
}

// SumOf is the SHA-256 of a file, in hexadecimal.
func SumOf(path string) (string, error) {
	f, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// SumOfAll is the sum of several files, and of all files below folders, with their names. Links count as what they lead
// to.
func SumOfAll(paths []string) (string, error) {
	h := sha256.New()
	for _, p := range paths {
		root, err := filepath.EvalSymlinks(p)
		if err != nil {
			return "", err
		}
		if err := addSums(h, root, "", map[string]bool{}); err != nil {
			return "", err
		}
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// addSums adds the sums of a file, or of the files of a folder, under a name. A folder that a link leads back to counts
// once.
func addSums(h io.Writer, path, name string, seen map[string]bool) error {
	info, err := os.Stat(path)
	switch {
	case err != nil:
		return err
	case info.Mode().IsRegular():
		sum, err := SumOf(path)
		fmt.Fprintf(h, "%s %s\n", name, sum)
		return err
	case !info.IsDir():
		return nil
	}
	real, err := filepath.EvalSymlinks(path)
	if err != nil || seen[real] {
		return err
	}
	seen[real] = true
	entries, err := os.ReadDir(path)
	if err != nil {
		return err
	}
	for _, e := range entries {
		at := filepath.Join(path, e.Name())
		if _, err := os.Stat(at); err != nil && e.Type()&os.ModeSymlink != 0 {
			continue // a link to nowhere
		}
		if err := addSums(h, at, name+"/"+e.Name(), seen); err != nil {
			return err
		}
	}
	return nil
}

// SumOfText is the sum of the recipe with its values.
func (r *Recipe) SumOfText() string {
	h := sha256.New()
	io.WriteString(h, r.Source)
	for _, v := range r.Values {
		fmt.Fprintf(h, "\n%s=%s", v.Name, v.Text)
	}
	return hex.EncodeToString(h.Sum(nil))
}
