//go:build !linux

package main

import "syscall"

func endWithParent() *syscall.SysProcAttr { return nil }
