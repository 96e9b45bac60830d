package main

import (
	"context"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/formats/outline"
	"vineladder/internal/intake"
	"vineladder/internal/store"
)

// importMenusCommand reads menus. One whose key the site has takes the place of the entries that it had; any other is
// made.
func importMenusCommand() *cobra.Command {
	s, in := &settings{}, &intaking{}
	var key, origin string
	cmd := &cobra.Command{
		Use:   "menus FILE",
		Short: "Import menus from OPML 2.0 or JSON, all of it or nothing",
		Args:  cobra.ExactArgs(1),
	}
	cmd.RunE = withStore(s, func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
		if err := in.check(); err != nil {
			return err
		}
		document, err := os.ReadFile(args[0])
		if err != nil {
			return err
		}
		menus, err := outline.Read(document)
		if err == nil && key != "" && len(menus) == 1 {
			menus[0].Key = key
		}
		var ops []edit.Op
		if err == nil {
			ops, err = intake.Menus(ctx, st, st.Published().Site, menus, origin, clock.Now())
		}
		if err != nil {
			return fmt.Errorf("nothing was imported from %s:\n%w", args[0], err)
		}
		if len(ops) == 0 {
			fmt.Fprintln(cmd.OutOrStdout(), "The document says what the site has already; nothing changes.")
			return nil
		}
		return in.take(ctx, cmd, st, args[0], ops)
	})
	s.databaseFlag(cmd)
	in.flags(cmd)
	cmd.Flags().StringVar(&key, "menu", "", "key of the menu, for a document that has only one")
	cmd.Flags().StringVar(
		&origin,
		"site-url",
		env("VINELADDER_SITE_URL", ""),
		"the public site: addresses that begin with it lead to its pages",
	)
	return cmd
}
