package main

import (
	"bufio"
	"fmt"
	"io"
	"os"
	"os/exec"
	"slices"
	"strings"
	"syscall"
)

// inBackground starts this program again without --background, and returns once that one listens.
func inBackground(w io.Writer, args []string) error {
	args = slices.DeleteFunc(slices.Clone(args), func(a string) bool {
		return a == "--background" || strings.HasPrefix(a, "--background=")
	})
	self, err := os.Executable()
	if err != nil {
		return err
	}
	cmd := exec.Command(self, args...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setsid: true} // it outlives whoever started it
	said, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	var wrong strings.Builder
	cmd.Stderr = &wrong
	if err := cmd.Start(); err != nil {
		return err
	}
	line, err := bufio.NewReader(said).ReadString('\n')
	if err != nil {
		cmd.Wait()
		return fmt.Errorf("it ended at once: %s", strings.TrimSpace(wrong.String()))
	}
	_, err = fmt.Fprintf(w, "The simulated web is at %s. Stop it with: kill %d\n", strings.TrimSpace(line),
		cmd.Process.Pid)
	return err
}
