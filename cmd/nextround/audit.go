package main

import (
	"errors"

	"github.com/spf13/cobra"

	"nextround/internal/rooms"
	"nextround/internal/store"
)

func auditCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "audit", Short: "Look through the audit trail", Args: cobra.NoArgs}
	var url string
	verify := &cobra.Command{
		Use:   "verify",
		Short: "Say whether a row of the audit trail was removed or altered",
		Long: "Goes through the chain of the audit trail of every organisation. Exit code 1 when a row is missing or not as it was\n" +
			"written. Keep the hash it prints somewhere else: then it also shows when the whole chain was made again.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return withService(cmd.Context(), url, func(st *store.Store, _ *rooms.Rooms) error {
				states, err := st.VerifyAudit(cmd.Context())
				if err != nil {
					return err
				}
				broken := false
				for _, s := range states {
					if s.Broken != "" {
						broken = true
						say(cmd.OutOrStdout(), "%s: %s.", s.Organisation, s.Broken)
						continue
					}
					say(cmd.OutOrStdout(), "%s: %d rows are whole, %d newer ones are not sealed yet. %s", s.Organisation, s.Sealed, s.Waiting, s.Seal)
				}
				if broken {
					return errors.New("the audit trail was tampered with")
				}
				return nil
			})
		},
	}
	databaseFlag(verify, &url)
	cmd.AddCommand(verify)
	return cmd
}
