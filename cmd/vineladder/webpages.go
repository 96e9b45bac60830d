package main

import (
	"context"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"vineladder/internal/clock"
	"vineladder/internal/core/count"
	"vineladder/internal/formats/webpages"
	"vineladder/internal/intake"
	"vineladder/internal/store"
)

// importWebpagesCommand reads a folder of HTML files, as another program wrote them.
func importWebpagesCommand() *cobra.Command {
	s, in := &settings{}, &intaking{}
	var below, wereAt string
	var look bool
	cmd := &cobra.Command{
		Use:   "html FOLDER",
		Short: "Import a folder of HTML files as a branch, with what they show and link, all of it or nothing",
		Args:  cobra.ExactArgs(1),
	}
	cmd.RunE = withStore(s, func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
		if err := in.check(); err != nil && !look {
			return err
		}
		folder, err := webpages.Read(ctx, os.DirFS(args[0]), farOf(cmd, "read"))
		if err != nil {
			return fmt.Errorf("nothing was imported from %s: %w", args[0], err)
		}
		out := cmd.OutOrStdout()
		for _, p := range folder.Pages {
			if told := p.Told(); look || len(p.Left)+len(p.Dead) > 0 {
				fmt.Fprintln(out, told)
			}
		}
		if look {
			fmt.Fprintf(out, "%s and %s would be brought in. Nothing was changed.\n", count.Pages(len(folder.Pages)),
				count.Of(len(folder.Files), "file", "files"))
			return nil
		}
		kept, err := s.kept(ctx)
		if err != nil {
			return err
		}
		defer kept.Bytes.Close()
		on := st.Published().Site
		parent, err := pageAt(on, below)
		if err != nil {
			return err
		}
		to := intake.Pages(ctx, st, kept, clock.Now())
		to.Below, to.WereAt, to.Told = parent, wereAt, farOf(cmd, "brought in")
		plan, err := folder.Brings(ctx, on, to)
		if err != nil {
			return fmt.Errorf("nothing was imported from %s: %w", args[0], err)
		}
		for _, remark := range plan.Remarks {
			fmt.Fprintln(out, remark)
		}
		fmt.Fprintf(out, "%s and %s.\n", count.Pages(plan.Pages), count.Of(plan.Files, "file", "files"))
		return in.take(ctx, cmd, st, args[0], plan.Ops)
	})
	s.databaseFlag(cmd)
	s.filesFlag(cmd)
	in.flags(cmd)
	cmd.Flags().StringVar(&below, "below", "/", "address of the page below which they are to stand")
	cmd.Flags().StringVar(&wereAt, "were-at", "",
		"address at which the folder stood, as in /handbook: old addresses lead to the pages then")
	cmd.Flags().BoolVar(&look, "look", false, "only say what would be brought in")
	return cmd
}

// farOf tells on the terminal how far the work is, each hundredth once.
func farOf(cmd *cobra.Command, done string) webpages.Progress {
	last := -1
	return func(n, of int) {
		if part := n * 100 / of; part > last && of > 100 {
			last = part
			fmt.Fprintf(cmd.ErrOrStderr(), "\r%s: %d of %d%s", done, n, of, strings.Repeat("\n", n/of))
		}
	}
}
