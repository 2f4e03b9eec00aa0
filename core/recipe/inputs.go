package recipe

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"hash/fnv"
	"os"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/input"
	"gyrolith/core/safefile"
)

// Gather lists the inputs: the files that are named, and of folders and patterns the files of data. What lies in the
// folder that is written to is left alone. Skipped are the other files of the folders.
func Gather(paths []string, into string, isData func(path string) bool) (inputs []Input,
	skipped []string, err error) {
	g, err := input.Gather(paths, into, isData)
	if err != nil {
		return nil, nil, err
	}
	seen := map[string]string{}
	for _, f := range g.Files {
		if old, ok := seen[f.Rel]; ok {
			return nil, nil, fmt.Errorf("%s and %s would have the same name in the journal (%s): name the folder above both "+
				"instead", old, f.Path, f.Rel)
		}
		info, err := os.Stat(f.Path)
		if err != nil {
			return nil, nil, safefile.CannotRead(f.Path, "file or folder", err)
		}
		seen[f.Rel] = f.Path
		inputs = append(inputs, Input{Path: f.Path, Rel: f.Rel, Size: info.Size(), Found: f.Found})
	}
	slices.SortFunc(inputs, func(a, b Input) int { return strings.Compare(a.Rel, b.Rel) })
	for i := range inputs {
		inputs[i].Number = i + 1
	}
	return inputs, g.Others, nil
}

// SumOfInputs is the sum of the names and sizes of inputs, by which shares of one run know that they found the same.
func SumOfInputs(inputs []Input) string {
	h := sha256.New()
	for i := range inputs {
		size := inputs[i].Size
		if info, err := os.Stat(inputs[i].Path); size == 0 && err == nil {
			size = info.Size()
		}
		fmt.Fprintf(h, "%s %d\n", inputs[i].Rel, size)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// Share is one of several equal parts of the inputs.
type Share struct{ Part, Of int }

// ParseShare reads 3/16.
func ParseShare(text string) (Share, error) {
	a, b, ok := strings.Cut(text, "/")
	part, err1 := strconv.Atoi(a)
	of, err2 := strconv.Atoi(b)
	if !ok || err1 != nil || err2 != nil || part < 1 || of < 1 || part > of || of > 1<<16 {
		return Share{}, fmt.Errorf("%q is not a share: write 3/16 for the third of sixteen", text)
	}
	return Share{part, of}, nil
}

func (s Share) String() string { return fmt.Sprintf("%d/%d", s.Part, s.Of) }

// Has says whether an input is of the share, by a hash of its relative path (FNV-1a), which is the same on every
// machine.
func (s Share) Has(in *Input) bool {
	if s.Of <= 1 {
		return true
	}
	h := fnv.New64a()
	h.Write([]byte(in.Rel))
	return int(h.Sum64()%uint64(s.Of)) == s.Part-1
}

// CheckNames refuses outputs of which two inputs would write one, before anything is read. The chain is the recipe's.
func (r *Recipe) CheckNames(c *chain.Chain, inputs []Input) error {
	taken := map[string]string{}
	for i, end := range c.Ends {
		o := &r.Outputs[i]
		key, at := "file", o.Place
		for _, k := range o.Keys {
			if k.Name == "file" || k.Name == "card" {
				key, at = k.Name, k.Place
			}
		}
		fault := func(format string, args ...any) error {
			return &Error{Path: r.Path, Place: at, Msg: fmt.Sprintf(format, args...)}
		}
		pattern := end.Name
		if r.Together {
			if strings.Contains(pattern, "{name}") || strings.Contains(pattern, "{folder}") ||
				strings.Contains(pattern, "{number}") {
				return fault("%s = %q names its input, but this recipe takes all inputs together", key, pattern)
			}
			inputs = []Input{{Rel: "all"}}
		}
		for j := range inputs {
			name := inputs[j].Fill(pattern)
			if name == "" || strings.HasSuffix(name, "/") {
				return fault("%s = %q names no file", key, pattern)
			}
			if strings.Contains(name, "{") {
				continue // which the data tell apart, or else the runner
			}
			folded := strings.ToLower(name)
			if old, ok := taken[folded]; ok {
				return fault("%s and %s would both write %s: add {folder}, {name} or {number} to %q", old, inputs[j].Rel, name,
					pattern)
			}
			taken[folded] = inputs[j].Rel
		}
	}
	return nil
}
