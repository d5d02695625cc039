package main

import "syscall"

// endWithParent makes a child end when this process does, even when it is killed.
func endWithParent() *syscall.SysProcAttr {
	return &syscall.SysProcAttr{Pdeathsig: syscall.SIGTERM}
}
