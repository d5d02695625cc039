package main

import (
	"cmp"
	"fmt"
	"strings"

	"cleverniche/study"
	"cleverniche/study/jobs"
	"cleverniche/study/people"

	"github.com/spf13/cobra"
)

var peopleColumns = []column{{"Name", "name"}, {"Role", "role"}, {"Budget a day", "budget"}}

// peopleCommand says who may sign in.
func peopleCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "people", Short: "Say who may sign in: invite somebody, send a new password link, " +
		"remove one",
		GroupID: "run", Example: examples("cleverniche people", "cleverniche people invite Ada --role owner"),
		Args: args(cobra.NoArgs),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, _ []string) error {
			list, err := s.People.List(cmd.Context())
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, p := range list {
				budget := unknown
				if p.Budget > 0 {
					budget = cell{p.Budget, s.Ask.Money(p.Budget)}
				}
				rows = append(rows, []cell{said(p.Name), said(string(p.Role)), budget})
			}
			return printed(cmd, peopleColumns, rows)
		})}
	jsonFlag(cmd)
	cmd.AddCommand(inviteCommand(), linkCommand(), removePersonCommand())
	return cmd
}

// byCommand is whose an invitation is that was made by the command line.
const byCommand = "the command line"

func inviteCommand() *cobra.Command {
	var role, address string
	cmd := &cobra.Command{Use: "invite NAME", Short: "Print a link by which somebody can join; it works once, within " +
		"7 days",
		Example: examples("cleverniche people invite Ada --role owner",
			"cleverniche people invite \"Ben Okoro\" --role writer"),
		Args: args(cobra.ExactArgs(1)),
		RunE: opened(func(cmd *cobra.Command, c config, s *study.Study, _ []jobs.Job, list []string) error {
			secret, err := s.People.Invite(cmd.Context(), list[0], people.Role(role), byCommand)
			if err != nil {
				return err
			}
			return printLink(cmd, c, address, secret)
		})}
	cmd.Flags().StringVar(&role, "role", string(people.Editor), "owner, editor, reader or writer")
	addressFlag(cmd, &address)
	return cmd
}

func linkCommand() *cobra.Command {
	var address string
	cmd := &cobra.Command{Use: "link NAME", Short: "Print a link by which somebody chooses a new password",
		Example: examples("cleverniche people link Ada", "cleverniche people link Ada --address https://niches.example"),
		Args:    args(cobra.ExactArgs(1)),
		RunE: opened(func(cmd *cobra.Command, c config, s *study.Study, _ []jobs.Job, list []string) error {
			p, err := personNamed(cmd, s, list[0])
			if err != nil {
				return err
			}
			secret, err := s.People.Renew(cmd.Context(), p.ID, byCommand)
			if err != nil {
				return err
			}
			return printLink(cmd, c, address, secret)
		})}
	addressFlag(cmd, &address)
	return cmd
}

func removePersonCommand() *cobra.Command {
	return &cobra.Command{Use: "remove NAME", Short: "Let somebody sign in no more, at once",
		Example: examples("cleverniche people remove Ada", "cleverniche people remove \"Ben Okoro\""),
		Args:    args(cobra.ExactArgs(1)),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, list []string) error {
			p, err := personNamed(cmd, s, list[0])
			if err != nil {
				return err
			}
			return s.People.Remove(cmd.Context(), p.ID)
		})}
}

func personNamed(cmd *cobra.Command, s *study.Study, name string) (people.Person, error) {
	list, err := s.People.List(cmd.Context())
	if err != nil {
		return people.Person{}, err
	}
	for _, p := range list {
		if strings.EqualFold(p.Name, name) {
			return p, nil
		}
	}
	return people.Person{}, &usageError{fmt.Errorf("nobody is called %q", name)}
}

func addressFlag(cmd *cobra.Command, address *string) {
	cmd.Flags().StringVar(address, "address", "", "where the application is reached, such as https://niches.example")
}

func printLink(cmd *cobra.Command, c config, address, secret string) error {
	if address == "" {
		address = "http://" + c.GetString("listen")
		if hosts := c.list("hosts"); len(hosts) > 0 {
			address = "https://" + cmp.Or(hosts[0], c.GetString("listen"))
		}
	}
	_, err := fmt.Fprintf(cmd.OutOrStdout(), "%s/join/%s\n", strings.TrimSuffix(address, "/"), secret)
	return err
}
