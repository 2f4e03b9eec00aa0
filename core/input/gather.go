package input

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/format"
)

// File is an input: where it is, and where it stands below what was named.
type File struct {
	Path string
	Rel  string // below the folder that was named, with slashes; of a file that was named, its own name

	Found bool // in a folder: it need not be data
}

// Paths are those of files.
func Paths(files []File) []string {
	out := make([]string, len(files))
	for i := range files {
		out[i] = files[i].Path
	}
	return out
}

// Apart gives each file a name that tells it from the others: below the folder that was named, with the folders above
// it where several have one name.
func Apart(files []File) []string {
	out := make([]string, len(files))
	same := map[string][]int{}
	for i := range files {
		out[i] = files[i].Rel
		same[out[i]] = append(same[out[i]], i)
	}
	for _, list := range same {
		for more := 1; len(list) > 1 && more < 8; more++ {
			seen := map[string]bool{}
			for _, i := range list {
				whole, err := filepath.Abs(files[i].Path)
				if err != nil {
					whole = files[i].Path
				}
				parts := strings.Split(filepath.ToSlash(whole), "/")
				n := strings.Count(files[i].Rel, "/") + 1 + more
				out[i] = strings.Join(parts[max(len(parts)-n, 0):], "/")
				seen[out[i]] = true
			}
			if len(seen) == len(list) {
				break
			}
		}
	}
	return out
}

// Named are files by their paths alone.
func Named(paths ...string) []File {
	out := make([]File, len(paths))
	for i, path := range paths {
		out[i] = File{Path: path, Rel: filepath.Base(path)}
	}
	return out
}

// Gathered are the inputs that paths name.
type Gathered struct {
	Files   []File
	Others  []string // files of the folders that are no data, by name and by content
	Several bool     // a folder or a pattern was named, and not files alone
}

// Gather lists the files that paths name: files themselves and "-" in the order given, of a folder all files of data
// below it in the order of their names, by their content where the name says nothing, of a pattern what matches it.
// Hidden files and what lies in the folder without are left alone.
func Gather(paths []string, without string, isData func(path string) bool) (*Gathered, error) {
	g := &Gathered{}
	target := ""
	if without != "" {
		target, _ = filepath.Abs(without)
	}
	for _, p := range paths {
		info, err := os.Stat(p)
		switch {
		case p == "-":
			g.Files = append(g.Files, File{Path: p, Rel: p})
		case err == nil && info.IsDir():
			g.Several = true
			if err := g.walk(p, target, isData); err != nil {
				return nil, err
			}
		case err != nil && strings.ContainsAny(p, "*?["):
			found, err := filepath.Glob(p)
			if err != nil {
				return nil, fmt.Errorf("%s: is not a valid pattern: %w", p, err)
			}
			if len(found) == 0 {
				return nil, fmt.Errorf("%s: no file matches this pattern", p)
			}
			g.Several = true
			slices.Sort(found)
			for _, f := range found {
				if info, err := os.Stat(f); err == nil && info.Mode().IsRegular() {
					g.Files = append(g.Files, File{Path: f, Rel: filepath.Base(f)})
				}
			}
		default: // what is not there is said by who opens it
			g.Files = append(g.Files, File{Path: p, Rel: filepath.Base(p)})
		}
	}
	return g, nil
}

// walk adds the files of data below a folder. A folder within that can't be read is an error: what lies in it would be
// missing unseen.
func (g *Gathered) walk(folder, target string, isData func(path string) bool) error {
	root := folder
	if real, err := filepath.EvalSymlinks(folder); err == nil { // a linked folder is gone through as well
		root = real
	}
	var found []File
	err := filepath.WalkDir(root, func(path string, e fs.DirEntry, err error) error {
		if err != nil && e != nil && e.IsDir() && path != root { // is told when its turn comes, and stops no other
			rel, _ := filepath.Rel(root, path)
			found = append(found, File{Path: filepath.Join(folder, rel), Rel: filepath.ToSlash(rel)})
			return filepath.SkipDir
		}
		if err != nil {
			return err
		}
		hidden := strings.HasPrefix(e.Name(), ".") && path != root
		if e.IsDir() {
			if abs, _ := filepath.Abs(path); hidden || target != "" && abs == target {
				return filepath.SkipDir
			}
			return nil
		}
		if hidden || !isFile(path, e) {
			return nil
		}
		if !isData(path) {
			g.Others = append(g.Others, path)
			return nil
		}
		rel, _ := filepath.Rel(root, path)
		found = append(found, File{Path: filepath.Join(folder, rel), Rel: filepath.ToSlash(rel), Found: true})
		return nil
	})
	slices.SortFunc(found, func(a, b File) int { return strings.Compare(a.Rel, b.Rel) })
	g.Files = append(g.Files, found...)
	return err
}

// IsData says whether a file is data by its name, or else by its content.
func IsData(ctx context.Context, formats format.Formats, path string) bool {
	if formats.ByPath(path) != nil {
		return true
	}
	if besideShapes(path) { // a .shx begins as a .shp does
		return false
	}
	src, err := format.Open(ctx, path, nil)
	if err != nil {
		return false
	}
	defer src.Close()
	_, err = formats.Sniff(src)
	return err == nil
}

// besideShapes says whether a file is a part of the shapefile beside it.
func besideShapes(path string) bool {
	ext := filepath.Ext(path)
	_, err := os.Stat(strings.TrimSuffix(path, ext) + ".shp")
	return err == nil && slices.Contains([]string{".dbf", ".shx", ".prj", ".cpg"}, strings.ToLower(ext))
}

// Kinds counts files by the ends of their names: 2 .jpg, 1 .pdf. The files beside a .shp are not counted.
func Kinds(paths []string) (all int, kinds string) {
	counts := map[string]int{}
	for _, p := range paths {
		if besideShapes(p) {
			continue
		}
		counts[cmp.Or(strings.ToLower(filepath.Ext(p)), "without an ending")]++
		all++
	}
	var parts []string
	for _, ext := range slices.Sorted(maps.Keys(counts)) {
		parts = append(parts, fmt.Sprintf("%d %s", counts[ext], ext))
	}
	return all, strings.Join(parts, ", ")
}

// IsOther says whether an error of a file means that it is no data at all, as one finds in any folder.
func (f *File) IsOther(err error) bool {
	e, ok := errors.AsType[*format.Error](err)
	return ok && e.Other && f.Found
}

// isFile says whether an entry of a folder is a file, or a link to one.
func isFile(path string, e fs.DirEntry) bool {
	if e.Type()&fs.ModeSymlink == 0 {
		return e.Type().IsRegular()
	}
	info, err := os.Stat(path)
	return err == nil && info.Mode().IsRegular()
}
