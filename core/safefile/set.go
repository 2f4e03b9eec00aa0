package safefile

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"time"
)

// CommitAll gives several files their names, all or none: where one can't have its name, those before it lose theirs
// again. While names are given a journal beside them says which, so that a set of old and new files is found for what
// it is when the program dies, and is made whole by the next that writes there. It says under which names older files
// were kept.
func CommitAll(files []*Pending) (kept []string, err error) {
	if err := mayPlace(); err != nil {
		return nil, err
	}
	defer Carry()()
	for _, p := range files {
		defer p.Discard()
		if err := p.Flush(); err != nil {
			return nil, err
		}
	}
	if len(files) > 1 {
		journal, err := begin(files)
		if err != nil {
			return nil, err
		}
		defer journal.end()
	}
	var done []*Pending
	old := map[*Pending]string{}
	for _, p := range files {
		name, err := p.Place()
		if err != nil {
			for _, q := range done {
				if q.stream {
					continue
				}
				os.Remove(q.path)
				if old[q] != "" {
					os.Rename(old[q], q.path)
				}
			}
			return nil, err
		}
		done = append(done, p)
		if name != "" {
			old[p], kept = name, append(kept, name)
		}
	}
	return kept, nil
}

// setJournal says which files get their names together. It is claimed by the program that gives them.
type setJournal struct {
	file *os.File
	Set  []placing `json:"set"`
}

// placing is one of them; both names are those in the folder of the journal.
type placing struct {
	Part string `json:"part"`
	Name string `json:"name"`
	Keep bool   `json:"keep"` // an older file of the name
}

const setPattern = ".gyrolith-*.set"

// begin makes whole what an earlier program left, and writes the journal. Files of several folders have none.
func begin(files []*Pending) (*setJournal, error) {
	dir := filepath.Dir(files[0].path)
	if slices.ContainsFunc(files, func(p *Pending) bool {
		return p.tree != Anywhere || p.stream || p.quick || filepath.Dir(p.path) != dir
	}) {
		return &setJournal{}, nil
	}
	heal(dir)
	j := &setJournal{}
	for _, p := range files {
		j.Set = append(j.Set, placing{filepath.Base(p.part), filepath.Base(p.path), p.replace && !p.over})
	}
	text, err := json.Marshal(j)
	if err != nil {
		return nil, err
	}
	if j.file, err = os.CreateTemp(dir, setPattern); err != nil {
		return nil, cannotWrite(files[0].path, err)
	}
	claim(j.file)
	_, err = j.file.Write(text)
	if err == nil {
		if err = j.file.Sync(); errors.Is(err, errors.ErrUnsupported) {
			err = nil
		}
	}
	if err != nil {
		j.end()
		return nil, cannotWrite(files[0].path, err)
	}
	syncDir(Anywhere, dir)
	return j, nil
}

func (j *setJournal) end() {
	if j.file != nil {
		os.Remove(j.file.Name())
		j.file.Close()
	}
}

// orphans gives the journals in a folder whose program has died.
func orphans(dir string) map[string]*setJournal {
	names, _ := filepath.Glob(filepath.Join(escaped(dir), setPattern))
	out := map[string]*setJournal{}
	for _, name := range names {
		f, err := os.Open(name)
		if err != nil {
			continue
		}
		j := &setJournal{}
		if claim(f) && json.NewDecoder(f).Decode(j) == nil {
			out[name] = j
		}
		f.Close()
	}
	return out
}

// escaped is a folder as a pattern that matches it alone.
func escaped(dir string) string {
	var out []rune
	for _, r := range dir {
		if slices.Contains([]rune(`*?[\`), r) && os.PathSeparator != '\\' {
			out = append(out, '\\')
		}
		out = append(out, r)
	}
	return string(out)
}

// heal gives the rest of the files their names where a program died in between.
func heal(dir string) {
	for name, j := range orphans(dir) {
		whole := true
		for _, p := range j.Set {
			part, path := filepath.Join(dir, filepath.Base(p.Part)), filepath.Join(dir, filepath.Base(p.Name))
			if _, err := os.Lstat(part); errors.Is(err, fs.ErrNotExist) || !IsPart(filepath.Base(part)) {
				continue // it has its name already
			}
			if p.Keep {
				if _, err := keepOld(path); err != nil {
					whole = false
					continue
				}
			}
			whole = os.Rename(part, path) == nil && whole
		}
		if whole {
			os.Remove(name)
		}
	}
}

// CheckSet refuses a file that is one of a set which a program that died has replaced in part.
func CheckSet(path string) error {
	for _, j := range orphans(filepath.Dir(path)) {
		if slices.ContainsFunc(j.Set, func(p placing) bool { return p.Name == filepath.Base(path) }) {
			return fmt.Errorf("%s: its set of files is partly old and partly new, because the program was killed while "+
				"replacing it: write it again", path)
		}
	}
	return nil
}

// abandonedAfter is how old an unfinished file must be before it is taken for one that nobody finishes.
const abandonedAfter = time.Minute

// Sweep removes the unfinished files below a folder that programs have left which died.
func Sweep(dir string) {
	filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
		if err != nil || !e.Type().IsRegular() || !IsPart(e.Name()) {
			return nil
		}
		info, err := e.Info()
		if err != nil || time.Since(info.ModTime()) < abandonedAfter {
			return nil
		}
		f, err := os.Open(path)
		if err != nil {
			return nil
		}
		free := claim(f)
		f.Close()
		if free {
			os.Remove(path)
		}
		return nil
	})
}
