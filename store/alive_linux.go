package store

import (
	"math/rand/v2"
	"os"

	"golang.org/x/sys/unix"
)

// Each program holds a byte of the lock file, by which others see that it is alive: the system lets go of it however
// the program ends. Which byte, its number says.

const firstProgram, programs = 1 << 20, 1 << 40

// takeNumber takes a number that no other program has; 0 where that cannot be done.
func takeNumber(f *os.File) int64 {
	for range 100 {
		n := firstProgram + rand.Int64N(programs)
		lock := unix.Flock_t{Type: unix.F_WRLCK, Start: n, Len: 1}
		if unix.FcntlFlock(f.Fd(), unix.F_OFD_SETLK, &lock) == nil {
			return n
		}
	}
	return 0
}

// isHeld reports whether a program other than whoever has the file open here holds a number.
func isHeld(f *os.File, n int64) bool {
	lock := unix.Flock_t{Type: unix.F_WRLCK, Start: n, Len: 1}
	return unix.FcntlFlock(f.Fd(), unix.F_OFD_GETLK, &lock) == nil && lock.Type != unix.F_UNLCK
}
