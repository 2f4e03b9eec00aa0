package recipe

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
)

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
	return sumOfAll(paths, func(path string, _ fs.FileInfo) (string, error) { return SumOf(path) })
}

func sumOfAll(paths []string, sumOf func(string, fs.FileInfo) (string, error)) (string, error) {
	h := sha256.New()
	for _, p := range paths {
		root, err := filepath.EvalSymlinks(p)
		if err != nil {
			return "", err
		}
		if err := addSums(h, root, "", map[string]bool{}, sumOf); err != nil {
			return "", err
		}
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// addSums adds the sums of a file, or of the files of a folder, under a name. A folder that a link leads back to counts
// once.
func addSums(h io.Writer, path, name string, seen map[string]bool,
	sumOf func(string, fs.FileInfo) (string, error)) error {
	info, err := os.Stat(path)
	switch {
	case err != nil:
		return err
	case info.Mode().IsRegular():
		sum, err := sumOf(path, info)
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
		if err := addSums(h, at, name+"/"+e.Name(), seen, sumOf); err != nil {
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
