package recipe

import (
	"encoding/json"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"gyrolith/core/safefile"
)

// keptName is the file in the folder of a run that keeps the sums of large files which steps use, such as terrain, for
// all shares: a thousand tasks need not each read all of it.
const keptName = "sums.json"

// keptSum is the sum of a file as long as that has the size, the times of change and the number that it had.
type keptSum struct {
	Size    int64  `json:"size"`
	Time    int64  `json:"time"`
	Changed int64  `json:"changed,omitempty"` // of its entry in the file system
	Inode   uint64 `json:"inode,omitempty"`
	Sum     string `json:"sum"`
}

func (k keptSum) same(o keptSum) bool { k.Sum, o.Sum = "", ""; return k == o }

// keptSums are those of a folder.
type keptSums struct {
	known map[string]keptSum // by absolute paths
	fresh bool               // there are new ones
}

const (
	worthKeeping = 1 << 20         // bytes of a file, below which it is read sooner than its sum
	settled      = 2 * time.Second // after its last change a file may change again unseen, where times are coarse
)

// SumKept is SumOfAll with the sums of large files kept in a folder; nothing is written into one that is not there.
func SumKept(paths []string, folder string) (string, error) {
	k := &keptSums{known: map[string]keptSum{}}
	at := filepath.Join(folder, keptName)
	if text, err := os.ReadFile(at); err == nil {
		json.Unmarshal(text, &k.known) // what is no such file keeps nothing
	}
	sum, err := sumOfAll(paths, k.of)
	if _, missing := os.Stat(folder); err == nil && k.fresh && missing == nil {
		if p, err := safefile.CreateOver(at); err == nil {
			defer p.Discard()
			text, _ := json.MarshalIndent(k.known, "", " ")
			if _, err := p.Write(append(text, '\n')); err == nil {
				p.Commit()
			}
		}
	}
	return sum, err
}

func (k *keptSums) of(path string, info fs.FileInfo) (string, error) {
	if info.Size() < worthKeeping {
		return SumOf(path)
	}
	key, err := filepath.Abs(path)
	if err != nil {
		return SumOf(path)
	}
	now := keptSum{Size: info.Size(), Time: info.ModTime().UnixNano()}
	now.Changed, now.Inode = changeOf(info)
	if old, ok := k.known[key]; ok && old.same(now) {
		return old.Sum, nil
	}
	if now.Sum, err = SumOf(path); err != nil {
		return "", err
	}
	if last := time.Unix(0, max(now.Time, now.Changed)); time.Since(last) > settled {
		k.known[key], k.fresh = now, true
	}
	return now.Sum, nil
}
