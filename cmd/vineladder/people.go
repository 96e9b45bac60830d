package main

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// toolOn makes a command that runs on a database.
func toolOn(
	s *settings,
	cmd *cobra.Command,
	run func(context.Context, *cobra.Command, *store.Store, []string) error,
) *cobra.Command {
	cmd.RunE = withStore(s, run)
	s.databaseFlag(cmd)
	return cmd
}

func userCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "user", Short: "Accounts"}
	cmd.AddCommand(
		userAdd(),
		userList(),
		userPassword(),
		userRoles(),
		userChange(
			"disable LOGIN",
			"Keep an account from signing in, and end its sessions",
			"disabled",
			(*store.Store).Disable,
		),
		userChange("enable LOGIN", "Let an account sign in again", "enabled", (*store.Store).Enable),
	)
	return cmd
}

func userAdd() *cobra.Command {
	var name, roles string
	cmd := toolOn(
		&settings{},
		&cobra.Command{
			Use:   "add LOGIN",
			Short: "Add an account; its password is read from standard input",
			Args:  cobra.ExactArgs(1),
		},
		func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
			password, err := readPassword(cmd, args[0])
			if err != nil {
				return err
			}
			if _, err := st.AddAccount(ctx, args[0], orElse(name, args[0]), password, list(roles)); err != nil {
				return err
			}
			return audit(
				ctx,
				st,
				"account",
				fmt.Sprintf("added “%s” with the roles %s", args[0], orElse(strings.Join(list(roles), ", "), "none")),
			)
		},
	)
	cmd.Flags().StringVar(&name, "name", "", "the person's name")
	cmd.Flags().StringVar(&roles, "roles", "", "role keys, separated by commas; “vineladder role list” has them")
	return cmd
}

func userList() *cobra.Command {
	return toolOn(&settings{}, &cobra.Command{Use: "list", Short: "List all accounts", Args: cobra.NoArgs},
		func(ctx context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
			accounts, err := st.AccountLines(ctx)
			if err != nil {
				return err
			}
			for _, a := range accounts {
				state := ""
				if !a.Disabled.IsZero() {
					state = "\tdisabled since " + a.Disabled.UTC().Format("2006-01-02")
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s\t%s\t%s%s\n", a.Login, a.Name, strings.Join(a.Roles, ","), state)
			}
			return nil
		})
}

func userPassword() *cobra.Command {
	return toolOn(
		&settings{},
		&cobra.Command{
			Use:   "password LOGIN",
			Short: "Give an account a new password, read from standard input, and end its sessions",
			Args:  cobra.ExactArgs(1),
		},
		func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
			account, err := st.AccountByLogin(ctx, args[0])
			if err != nil {
				return err
			}
			password, err := readPassword(cmd, account.Login)
			if err != nil {
				return err
			}
			if _, err := st.ResetPassword(ctx, account, password); err != nil {
				return err
			}
			return audit(ctx, st, "account", fmt.Sprintf("gave “%s” a new password", account.Login))
		},
	)
}

func userRoles() *cobra.Command {
	return toolOn(
		&settings{},
		&cobra.Command{
			Use:   "roles LOGIN ROLE,…",
			Short: "Give an account just these roles; “-” for none",
			Args:  cobra.ExactArgs(2),
		},
		func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
			var roles []string
			if args[1] != "-" {
				roles = list(args[1])
			}
			if err := st.SetRoles(ctx, args[0], roles); err != nil {
				return err
			}
			return audit(
				ctx,
				st,
				"account",
				fmt.Sprintf("gave “%s” the roles %s", args[0], orElse(strings.Join(roles, ", "), "none")),
			)
		},
	)
}

func userChange(use, short, done string, change func(*store.Store, context.Context, string) error) *cobra.Command {
	return toolOn(&settings{}, &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(1)},
		func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
			if err := change(st, ctx, args[0]); err != nil {
				return err
			}
			return audit(ctx, st, "account", fmt.Sprintf("%s “%s”", done, args[0]))
		})
}

func roleCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "role", Short: "Roles"}
	cmd.AddCommand(
		toolOn(
			&settings{},
			&cobra.Command{Use: "list", Short: "List all roles, with what they include and may do", Args: cobra.NoArgs},
			func(_ context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
				for _, role := range st.Published().Site.Roles() {
					may := make([]string, len(role.Grants))
					for i, g := range role.Grants {
						may[i] = grant.Words(g.Action)
						if g.On != site.SiteThing {
							may[i] += " " + grant.Where(st.Published().Site, g.On)
						}
					}
					fmt.Fprintf(
						cmd.OutOrStdout(),
						"%s\t%s\t%s\t%s\n",
						role.Key,
						role.Name,
						strings.Join(role.Includes, ","),
						strings.Join(may, ", "),
					)
				}
				return nil
			},
		),
	)
	return cmd
}

func auditCommand() *cobra.Command {
	limit := 0
	cmd := toolOn(
		&settings{},
		&cobra.Command{Use: "audit", Short: "Print the audit trail, oldest first", Args: cobra.NoArgs},
		func(ctx context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
			lines, _, err := st.AuditAsked(ctx, store.AuditQuery{Limit: limit})
			if err != nil {
				return err
			}
			for _, line := range slices.Backward(lines) {
				times := ""
				if line.Times > 1 {
					times = fmt.Sprintf("\t%d times", line.Times)
				}
				fmt.Fprintf(
					cmd.OutOrStdout(),
					"%s\t%s\t%s\t%s\t%s%s\n",
					line.At.UTC().Format("2006-01-02T15:04:05Z"),
					line.What,
					line.Account,
					line.Client,
					line.About,
					times,
				)
			}
			return nil
		},
	)
	cmd.Flags().IntVar(&limit, "last", 1000, "how many entries")
	return cmd
}
