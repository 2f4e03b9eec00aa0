package recipe

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// ShareStatus is how far a share has come, by its journal.
type ShareStatus struct {
	Share   string `json:"share"`
	Inputs  int    `json:"inputs"`
	Done    int    `json:"done"` // kept ones among them
	Refused int    `json:"refused"`
	Other   int    `json:"other"` // found in a folder, and no data
	Left    int    `json:"left"`
	Stale   bool   `json:"stale,omitempty"` // overtaken by a run with other shares, another recipe or other inputs
	By      string `json:"by,omitempty"`    // the machine that ran it
}

// StatusOf reads how far the shares of a folder have come.
func StatusOf(dir string) ([]ShareStatus, error) {
	paths, err := filepath.Glob(filepath.Join(dir, "journal*.jsonl"))
	if err != nil {
		return nil, err
	}
	if _, err := os.Stat(dir); err != nil {
		return nil, err
	}
	var out []ShareStatus
	var heads []*Head
	for _, path := range paths {
		j, err := ReadJournal(path)
		if err != nil {
			return nil, err
		}
		defer j.Close()
		if j.Head == nil || j.Head.Merged {
			continue
		}
		s := ShareStatus{Share: j.Head.Share, Inputs: j.Head.Inputs, By: j.Head.By}
		err = j.Current(func(e *Entry) error {
			switch e.Status {
			case Done:
				s.Done++
			case Refused:
				s.Refused++
			case Other:
				s.Other++
			}
			return nil
		})
		if err != nil {
			return nil, err
		}
		s.Left = max(0, s.Inputs-s.Done-s.Refused-s.Other)
		out, heads = append(out, s), append(heads, j.Head)
	}
	round := 0
	for _, h := range heads {
		round = max(round, h.Round)
	}
	for i, h := range heads {
		newest := slices.IndexFunc(heads, func(o *Head) bool { return o.Round == round })
		out[i].Stale = h.Round < round || h.Recipe != heads[newest].Recipe || h.All != heads[newest].All
	}
	slices.SortFunc(out, func(a, b ShareStatus) int {
		x, _ := ParseShare(a.Share)
		y, _ := ParseShare(b.Share)
		if x.Of != y.Of {
			return x.Of - y.Of
		}
		return x.Part - y.Part
	})
	return out, nil
}

// host is the name of this machine, without its domain.
func host() string {
	name, err := os.Hostname()
	if err != nil {
		return ""
	}
	name, _, _ = strings.Cut(name, ".")
	return name
}
