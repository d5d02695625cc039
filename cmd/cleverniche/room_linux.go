package main

import "golang.org/x/sys/unix"

// roomAt is how many bytes are free for this user on the disk of a folder; ok is false where that
// is not known.
func roomAt(folder string) (free uint64, ok bool) {
	var at unix.Statfs_t
	if unix.Statfs(folder, &at) != nil {
		return 0, false
	}
	return at.Bavail * uint64(at.Bsize), true
}
