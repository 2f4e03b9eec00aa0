package recipe

import (
	"bufio"
	"cmp"
	"fmt"
	"hash/fnv"
	"io"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

// Listed reads a list of inputs, a path a line, with its size in bytes behind a tab or a comma where that is known. A
// line of titles is left out, and so are empty ones. Inputs are named by their paths below the folder that all are in.
func Listed(r io.Reader, name string) ([]Input, error) {
	in := bufio.NewScanner(r)
	in.Buffer(nil, 1<<20)
	var out []Input
	for line := 1; in.Scan(); line++ {
		text := strings.TrimSuffix(in.Text(), "\r")
		if text == "" || line == 1 && isTitles(text) {
			continue
		}
		at, size := text, int64(0)
		if i := strings.LastIndexAny(text, "\t,"); i > 0 {
			n, err := strconv.ParseInt(strings.TrimSpace(text[i+1:]), 10, 64)
			switch {
			case err == nil && n >= 0:
				at, size = text[:i], n
			case text[i] == '\t':
				return nil, fmt.Errorf("%s:%d: %q is not a size in bytes", name, line, text[i+1:])
			}
		}
		at = strings.Trim(at, `"`)
		out = append(out, Input{Path: filepath.FromSlash(at), Rel: path.Clean(filepath.ToSlash(at)), Size: size,
			Found: true})
	}
	if err := in.Err(); err != nil {
		return nil, fmt.Errorf("%s: can't be read as a list of paths: %w", name, err)
	}
	above := commonFolder(out)
	for i := range out {
		out[i].Rel = strings.TrimPrefix(out[i].Rel[len(above):], "/")
	}
	slices.SortFunc(out, func(a, b Input) int { return strings.Compare(a.Rel, b.Rel) })
	for i := range out {
		if out[i].Number = i + 1; i > 0 && out[i].Rel == out[i-1].Rel {
			return nil, fmt.Errorf("%s: names %s twice", name, out[i].Path)
		}
	}
	return out, nil
}

func isTitles(text string) bool {
	first, second, ok := strings.Cut(strings.ReplaceAll(strings.ToLower(text), "\t", ","), ",")
	return first == "path" && (!ok || second == "size")
}

// commonFolder is the folder that all inputs are in.
func commonFolder(inputs []Input) string {
	if len(inputs) == 0 {
		return ""
	}
	above := path.Dir(inputs[0].Rel)
	for i := range inputs {
		for above != "." && above != "/" && !strings.HasPrefix(inputs[i].Rel, above+"/") {
			above = path.Dir(above)
		}
	}
	return strings.TrimSuffix(strings.TrimPrefix(above, "."), "/")
}

// ByBytes gives the inputs of a share so that all shares have about as many bytes. They stand in the order of a hash of
// their names, of which each share has a stretch: another input moves the ends of stretches and little else.
func (s Share) ByBytes(inputs []Input) (out []Input) {
	if s.Of <= 1 {
		return inputs
	}
	hashes := make([]uint64, len(inputs))
	order := make([]int, len(inputs))
	total := 0.0
	for i := range inputs {
		h := fnv.New64a()
		io.WriteString(h, inputs[i].Rel)
		hashes[i], order[i] = h.Sum64(), i
		total += weight(&inputs[i])
	}
	slices.SortFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(hashes[a], hashes[b]), strings.Compare(inputs[a].Rel, inputs[b].Rel))
	})
	sum := 0.0
	for _, i := range order {
		middle := sum + weight(&inputs[i])/2
		sum += weight(&inputs[i])
		if int(middle/total*float64(s.Of)) == s.Part-1 {
			out = append(out, inputs[i])
		}
	}
	slices.SortFunc(out, func(a, b Input) int { return strings.Compare(a.Rel, b.Rel) })
	return out
}

// weight is what an input costs, in bytes: what it takes to open one is that of some thousands.
func weight(in *Input) float64 {
	const opening = 4096
	return float64(in.Size) + opening
}
