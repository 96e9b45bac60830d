package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"strings"
	_ "time/tzdata" // time zones are known on every machine

	"github.com/spf13/cobra"

	"vineladder/internal/founding"
	"vineladder/internal/store"
)

func initCommand() *cobra.Command {
	s, b := &settings{}, &founding.Beginning{}
	var keeper, keeperName string
	cmd := &cobra.Command{Use: "init", Short: "Set up a site in an empty database", Args: cobra.NoArgs}
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		for _, field := range []string{"name", "language", "zone"} {
			if fault := b.Check()[field]; fault != "" {
				return errors.New(fault)
			}
		}
		st, err := s.openOrMake(cmd.Context(), slog.New(slog.NewTextHandler(os.Stderr, nil)))
		if err != nil {
			return err
		}
		defer st.Close()
		password := ""
		if keeper != "" {
			if password, err = readPassword(cmd, keeper); err != nil {
				return err
			}
		}
		if err := founding.Begin(cmd.Context(), st, *b); err != nil {
			return err
		}
		if keeper != "" {
			if _, err := st.AddAccount(cmd.Context(), keeper, orElse(keeperName, keeper), password,
				[]string{founding.Keeper}); err != nil {
				return fmt.Errorf(
					"the site is set up, but its keeper is not: %w; add one with “vineladder user add”",
					err,
				)
			}
		}
		if err := st.EndSetup(cmd.Context()); err != nil {
			return err
		}
		fmt.Fprintf(cmd.OutOrStdout(), "%s is set up. Start it with “vineladder serve”.\n", strings.TrimSpace(b.Name))
		return audit(cmd.Context(), st, "set-up", "set up the site")
	}
	s.databaseFlag(cmd)
	cmd.Flags().StringVar(&b.Name, "name", "", "what the site is called")
	cmd.Flags().StringVar(&b.Language, "language", "en", "of the site, as in “en” or “nb”")
	cmd.Flags().StringVar(&b.Zone, "zone", "UTC", "time zone, as in “Europe/Oslo”")
	cmd.Flags().StringVar(
		&keeper,
		"keeper",
		"",
		"sign-in name of the first site keeper; the password is read from standard input",
	)
	cmd.Flags().StringVar(&keeperName, "keeper-name", "", "the keeper's name")
	return cmd
}

func orElse(words, other string) string {
	if words == "" {
		return other
	}
	return words
}

// readPassword reads a password from standard input and says what is wrong with it before anything is done.
func readPassword(cmd *cobra.Command, login string) (string, error) {
	fmt.Fprint(cmd.ErrOrStderr(), "Password: ")
	line, err := bufio.NewReader(cmd.InOrStdin()).ReadString('\n')
	if err != nil && line == "" {
		return "", errors.New("no password came on standard input")
	}
	password := strings.TrimRight(line, "\r\n")
	return password, store.CheckPassword(login, password)
}

// audit notes what a command did, in the name of the operator.
func audit(ctx context.Context, st *store.Store, what, about string) error {
	return st.Audit(ctx, store.AuditLine{What: what, Account: "the operator", About: about})
}
