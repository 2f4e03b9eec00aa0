//go:build unix

package settings

import (
	"io/fs"
	"os"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"syscall"
)

// stranger says why a file could be of somebody who is not to settle anything: in a folder that everybody may write to,
// or of an owner who is neither the user, nor root, nor in the folder's own group.
func stranger(path string, info fs.FileInfo) string {
	folder, err := os.Stat(filepath.Dir(path))
	if err != nil {
		return ""
	}
	if folder.Mode().Perm()&0o002 != 0 {
		return "everybody may write to its folder"
	}
	file, ok := info.Sys().(*syscall.Stat_t)
	if !ok || file.Uid == 0 || int(file.Uid) == os.Geteuid() {
		return ""
	}
	group := folder.Sys().(*syscall.Stat_t).Gid
	if owner, err := user.LookupId(strconv.Itoa(int(file.Uid))); err == nil {
		if all, err := owner.GroupIds(); err == nil && slices.Contains(all, strconv.Itoa(int(group))) {
			return ""
		}
	}
	return "somebody else wrote it"
}
