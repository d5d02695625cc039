package store

import "golang.org/x/sys/unix"

// Room is how many bytes are free for this user on the disk of a folder; ok is false where that
// is not known.
func Room(folder string) (free uint64, ok bool) {
	var at unix.Statfs_t
	if unix.Statfs(folder, &at) != nil {
		return 0, false
	}
	return at.Bavail * uint64(at.Bsize), true
}
