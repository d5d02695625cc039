package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"

	"github.com/spf13/cobra"
	"github.com/spf13/viper"
)

func backupCommand() *cobra.Command {
	return &cobra.Command{Use: "backup FILE", Short: "Copy the data file, even while it is in use", GroupID: "file",
		Example: examples("cleverniche backup today.db", "cleverniche backup /media/stick/niches.db"),
		Args:    args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, list []string) error {
			c, err := readConfig(cmd.Flags())
			if err != nil {
				return err
			}
			if _, err := os.Stat(c.dataFile()); err != nil {
				return &usageError{fmt.Errorf("there is no data file to copy: %w", err)}
			}
			st, err := c.openFile()
			if err != nil {
				return err
			}
			defer st.Close()
			switch err := st.Backup(cmd.Context(), list[0]); {
			case errors.Is(err, os.ErrExist):
				return &usageError{fmt.Errorf("%s is there already, and no file is replaced: give the backup another name",
					list[0])}
			case err != nil:
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Copied to %s: all of %s.\n", list[0], c.dataFile())
			return nil
		}}
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{Use: "restore FILE",
		Short:   "Put a backup in the place of the data file",
		Long:    "Put a backup in the place of the data file, which is kept beside it. No program may be using it.",
		Example: examples("cleverniche restore today.db", "cleverniche restore copies/2026-11-28.db"), GroupID: "file",
		Args: args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, list []string) error {
			c, err := readConfig(cmd.Flags())
			if err != nil {
				return err
			}
			kept, err := store.Restore(cmd.Context(), c.dataFile(), list[0], c.now())
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s is as it was in %s\n", c.dataFile(), list[0])
			if kept != "" {
				fmt.Fprintf(cmd.OutOrStdout(), "what was there is kept as %s\n", kept)
			}
			return nil
		}}
}

// copies is the folder of the copies that are made every day; "" when none are made.
func (c config) copies() string {
	switch folder := c.GetString("copies"); folder {
	case "none":
		return ""
	case "":
		return filepath.Join(filepath.Dir(c.dataFile()), "copies")
	default:
		return folder
	}
}

// secretKey is the key for the services, which is not taken from the command line, where every
// user of the machine could read it.
func secretKey(v *viper.Viper) (string, error) {
	file := v.GetString("key-file")
	if file == "" {
		return v.GetString("key"), nil
	}
	data, err := os.ReadFile(file)
	if err != nil {
		return "", &usageError{fmt.Errorf("reading the key: %w", err)}
	}
	key := strings.TrimSpace(string(data))
	if key == "" || strings.ContainsAny(key, "\r\n") {
		return "", &usageError{fmt.Errorf("--key-file: %s does not hold one line with the key", file)}
	}
	return key, nil
}

// leastRoom is how much room on its disk a data file needs at least.
const leastRoom = 64 << 20

func packCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "pack FILE", Short: "Export a whole niche to a file, for another machine or version",
		Example: examples("cleverniche pack sky.niche", "cleverniche pack cheese.niche --niche \"Home cheese making\""),
		GroupID: "file",
		Args:    args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			f, err := os.OpenFile(list[0], os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
			if err != nil {
				return &usageError{err}
			}
			err = errors.Join(s.Files.ExportWhole(cmd.Context(), n, f), f.Sync(), f.Close())
			if err != nil {
				return errors.Join(err, os.Remove(list[0]))
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%s holds the niche %s\n", list[0], n.Name)
			return nil
		})}
	nicheFlag(cmd)
	return cmd
}

func unpackCommand() *cobra.Command {
	return &cobra.Command{Use: "unpack FILE", Short: "Import a whole niche from a file", GroupID: "file",
		Example: examples("cleverniche unpack sky.niche", "cleverniche unpack sky.niche --data other.db"),
		Args:    args(cobra.ExactArgs(1)),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, list []string) error {
			f, err := os.Open(list[0])
			if err != nil {
				return &usageError{err}
			}
			defer f.Close()
			at, err := f.Stat()
			if err != nil {
				return err
			}
			n, err := s.Files.ImportWhole(cmd.Context(), f, at.Size())
			if err == nil {
				fmt.Fprintf(cmd.ErrOrStderr(), "made the niche %s\n", n.Name)
			}
			return err
		})}
}
