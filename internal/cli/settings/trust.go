package settings

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"gyrolith/core/safefile"
)

// mostBytes is the largest file of settings.
const mostBytes = 1 << 20

// Passed is a file of settings that is not used, and why.
type Passed struct{ Path, Why string }

// content reads a file of settings that may be used. Why says for which reason it may not be; "" where there is none
// or it may.
func content(path string, own bool) (text []byte, why string, err error) {
	info, err := os.Stat(path)
	switch {
	case err != nil:
		return nil, "", err
	case !info.Mode().IsRegular():
		return nil, "it is not a regular file", nil
	case info.Size() > mostBytes:
		return nil, "it is larger than 1 MB", nil
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, "", err
	}
	defer f.Close()
	if text, err = io.ReadAll(io.LimitReader(f, mostBytes)); err != nil || own {
		return text, "", err
	}
	if why = stranger(path, info); why != "" && isTrusted(text) {
		why = ""
	}
	return text, why, nil
}

// trusted is the file with the sums of the files of settings that the user trusts.
func trusted() (string, error) {
	own, err := os.UserConfigDir()
	return filepath.Join(own, "gyrolith", "trusted"), err
}

func sumOf(text []byte) string {
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:])
}

func isTrusted(text []byte) bool {
	path, err := trusted()
	if err != nil {
		return false
	}
	list, _ := os.ReadFile(path)
	for line := range strings.Lines(string(list)) {
		if sum, _, _ := strings.Cut(line, " "); sum == sumOf(text) {
			return true
		}
	}
	return false
}

// Trust has a file of settings used, whoever wrote it, as long as it stays as it is.
func Trust(path string) error {
	text, why, err := content(path, true)
	if err == nil && why != "" {
		return fmt.Errorf("%s: %s", path, why)
	}
	if err != nil {
		return safefile.CannotRead(path, "file of settings", err)
	}
	list, err := trusted()
	if err != nil {
		return err
	}
	if isTrusted(text) {
		return nil
	}
	if path, err = filepath.Abs(path); err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(list), 0o700); err != nil {
		return safefile.Bare(err)
	}
	before, _ := os.ReadFile(list)
	return os.WriteFile(list, append(before, sumOf(text)+" "+path+"\n"...), 0o600)
}
