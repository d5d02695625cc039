//go:build !linux

package store

// Room is how many bytes are free on the disk of a folder; ok is false where that is not known.
func Room(string) (free uint64, ok bool) { return 0, false }
