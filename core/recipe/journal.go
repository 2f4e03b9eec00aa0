package recipe

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
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
	*lines
	file   *os.File   // that lines are added to; nil where none are
	beside []*lines   // journals of other shares, as far as they say something of the inputs
	begins int64      // where in the file the last run does
	end    int64      // of the file
	Head   *Head      // of the last run
	mu     sync.Mutex // of what is added
}

// ReadJournal reads a journal, which is empty where there is no file. It is to be closed.
func ReadJournal(path string) (*Journal, error) {
	j := &Journal{}
	l, err := openLines(path, func(text []byte, at int64) error {
		var e Entry
		if err := json.Unmarshal(text, &e); err != nil || e.Run == nil {
			return fmt.Errorf("%s: has a line that is of no input and of no run", path)
		}
		j.Head, j.begins = e.Run, at
		return nil
	})
	if err != nil {
		return nil, err
	}
	j.lines, j.end = l, l.size
	return j, nil
}

// OpenJournal opens a journal to go on with it.
func OpenJournal(path string) (*Journal, error) {
	j, err := ReadJournal(path)
	if err != nil {
		return nil, err
	}
	if j.file, err = os.OpenFile(path, os.O_WRONLY|os.O_CREATE, 0o666); err != nil {
		return nil, err
	}
	if err = j.file.Truncate(j.size); err == nil {
		_, err = j.file.Seek(j.size, io.SeekStart)
	}
	if j.from == nil && err == nil {
		j.from, err = os.Open(path)
	}
	return j, err
}

// Current visits the entries of the last run, by the inputs' names, until an error.
func (j *Journal) Current(visit func(e *Entry) error) error {
	for _, key := range slices.Sorted(keysOf(j.at)) {
		if j.at[key].from < j.begins {
			continue
		}
		if err := j.entry(key, visit); err != nil {
			return err
		}
	}
	return nil
}

// entry visits the entry of an input that there is.
func (j *Journal) entry(key string, visit func(e *Entry) error) error {
	e := &Entry{}
	if !j.into(key, e) {
		return fmt.Errorf("%s: the line of %s can't be read again", j.path, key)
	}
	return visit(e)
}

// all gives what this journal and those of other shares say of an input.
func (j *Journal) all(rel string) (out []*Entry) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if j.lines == nil {
		return nil
	}
	for _, l := range append([]*lines{j.lines}, j.beside...) {
		e := &Entry{}
		if l.into(rel, e) {
			out = append(out, e)
		}
	}
	return
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
// them, and the round of this run. Where shares are by their bytes an input may have been of another one of as many.
func (j *Journal) Borrow(dir string, of int, byBytes bool, wanted map[string]bool) (round int, err error) {
	paths, err := filepath.Glob(filepath.Join(dir, "journal*.jsonl"))
	asked := false // one journal of as many shares tells the round, and has no input of this one
	for _, path := range paths {
		if path == j.path || !byBytes && asked && numberOf(path) == of {
			continue
		}
		asked = asked || numberOf(path) == of
		other, err := ReadJournal(path)
		if err != nil {
			return 0, err
		}
		maps.DeleteFunc(other.at, func(rel string, _ span) bool { return !wanted[rel] })
		if len(other.at) > 0 {
			j.beside = append(j.beside, other.lines)
		} else {
			other.close()
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
	p, err := safefile.CreateOver(j.path)
	if err != nil {
		return err
	}
	defer p.Discard()
	out := bufio.NewWriter(p)
	for _, key := range slices.Sorted(keysOf(j.at)) { // of inputs that this run did not have
		text, err := j.text(key)
		if err != nil {
			return err
		}
		out.Write(text)
	}
	if _, err := io.Copy(out, io.NewSectionReader(j.from, j.begins, j.end-j.begins)); err != nil {
		return err
	}
	if err := out.Flush(); err != nil {
		return err
	}
	_, err = p.Commit()
	return err
}

// Add writes a line, whole. An input is asked for once in a run: what was known of it before is not, from then on.
func (j *Journal) Add(e *Entry) error {
	if j.file == nil {
		return nil
	}
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(e); err != nil {
		return err
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	if e.Run != nil {
		j.Head, j.begins = e.Run, j.end
	} else {
		delete(j.at, e.Input)
	}
	return j.write(b.Bytes())
}

// Again adds the line that this journal, or one of another share, has of an input already.
func (j *Journal) Again(key string, e *Entry) error {
	if j.file == nil {
		return nil
	}
	j.mu.Lock()
	text, err := j.text(key)
	if err != nil || text == nil {
		j.mu.Unlock()
		return j.Add(e)
	}
	defer j.mu.Unlock()
	delete(j.at, key)
	return j.write(text)
}

func (j *Journal) write(text []byte) error {
	n, err := j.file.Write(text)
	j.end += int64(n)
	return err
}

// Close flushes the journal to the medium.
func (j *Journal) Close() error {
	var faults []error
	if j.file != nil {
		faults = append(faults, j.file.Sync(), j.file.Close())
	}
	if j.lines != nil {
		faults = append(faults, j.close())
	}
	for _, l := range j.beside {
		faults = append(faults, l.close())
	}
	return errors.Join(faults...)
}

// Merged is the journals of all shares of one run, put together.
type Merged struct {
	Head *Head
	of   map[string]*Journal // by the inputs
	all  []*Journal
}

// Merge puts the journals of all shares of one run together. It refuses what does not belong together or is not
// complete.
func Merge(paths []string) (out *Merged, err error) {
	out = &Merged{of: map[string]*Journal{}}
	defer func() {
		if err != nil {
			out.Close()
		}
	}()
	shares := map[string]string{}
	of, round, all := 0, 0, ""
	for _, p := range paths {
		j, err := ReadJournal(p)
		if err != nil {
			return out, err
		}
		out.all = append(out.all, j)
		if j.Head == nil {
			return out, fmt.Errorf("%s: is not a run's journal", p)
		}
		switch { // what a run with another number of shares left is over
		case out.Head != nil && j.Head.Round < round:
			continue
		case out.Head != nil && j.Head.Round > round:
			out.Head, of, all = nil, 0, ""
			clear(out.of)
			clear(shares)
		}
		round = j.Head.Round
		share, err := ParseShare(j.Head.Share)
		switch {
		case err != nil:
			return out, fmt.Errorf("%s: %w", p, err)
		case out.Head != nil && out.Head.Recipe != j.Head.Recipe:
			return out, fmt.Errorf("%s: belongs to another recipe, or to other values, than the journals before it", p)
		case of != 0 && share.Of != of:
			return out, fmt.Errorf("%s: is a share of %d, but those before it are of %d", p, share.Of, of)
		case shares[j.Head.Share] != "":
			return out, fmt.Errorf("%s: is share %s, as is %s", p, j.Head.Share, shares[j.Head.Share])
		case all != "" && j.Head.All != all:
			return out, fmt.Errorf("%s: its run found other inputs than those before it: run share %s again, or the others", p,
				j.Head.Share)
		}
		all = j.Head.All
		of, shares[j.Head.Share] = share.Of, p
		if out.Head == nil {
			out.Head = &Head{Recipe: j.Head.Recipe, Share: "1/1", Merged: true}
		}
		out.Head.Inputs += j.Head.Inputs
		n := 0
		err = j.Current(func(e *Entry) error {
			if e.Recipe == j.Head.Recipe && e.Status != writing {
				out.of[e.Input] = j
				n++
			}
			return nil
		})
		if err != nil {
			return out, err
		}
		if n < j.Head.Inputs {
			return out, fmt.Errorf("%s: its last run has %d of its %d inputs: run share %s again to do the rest", p, n,
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
		return out, fmt.Errorf("the journals of %s are missing", strings.Join(missing, ", "))
	}
	return out, nil
}

// Entries visits the entries by the inputs' names, until an error.
func (m *Merged) Entries(visit func(e *Entry) error) error {
	for _, key := range slices.Sorted(keysOf(m.of)) {
		if err := m.of[key].entry(key, visit); err != nil {
			return err
		}
	}
	return nil
}

// Write writes the journal anew, its lines in the order of the inputs' names.
func (m *Merged) Write(w io.Writer) error {
	out := bufio.NewWriter(w)
	enc := json.NewEncoder(out)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(Entry{Run: m.Head}); err != nil {
		return err
	}
	for _, key := range slices.Sorted(keysOf(m.of)) {
		text, err := m.of[key].text(key)
		if err != nil {
			return err
		}
		out.Write(text)
	}
	return out.Flush()
}

// Close closes the journals.
func (m *Merged) Close() {
	for _, j := range m.all {
		j.Close()
	}
}
