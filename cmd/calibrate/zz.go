package main
import ("github.com/spf13/cobra")
func gatherCommand(p *plan, keep *string) *cobra.Command {
	return &cobra.Command{Use: "gather", RunE: func(cmd *cobra.Command, _ []string) error {
		_, _, err := gather(*p, "/tmp/samples.json", func(t string, a ...any) {})
		return err
	}}
}
