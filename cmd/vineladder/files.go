package main

import (
	"context"
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"vineladder/internal/clock"
	"vineladder/internal/core/count"
	"vineladder/internal/store"
)

// uploading is how long an upload may be on its way into a draft: younger bytes are left alone.
const uploading = 24 * time.Hour

func filesCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "files", Short: "See to the bytes of files"}
	cmd.AddCommand(cleanCommand())
	return cmd
}

// cleanCommand takes away bytes that nothing names any more.
func cleanCommand() *cobra.Command {
	s := &settings{}
	var look bool
	cmd := &cobra.Command{
		Use:   "clean",
		Short: "Take away bytes older than a day that no page, no draft and no publication names",
		Args:  cobra.NoArgs,
	}
	cmd.RunE = withStore(s, func(ctx context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
		kept, err := s.kept(ctx)
		if err != nil {
			return err
		}
		defer kept.Bytes.Close()
		names, err := st.UnnamedBytes(ctx, kept.Bytes, clock.Now().Add(-uploading))
		if err != nil {
			return err
		}
		out := cmd.OutOrStdout()
		for _, name := range names {
			fmt.Fprintln(out, name)
			if look {
				continue
			}
			if err := kept.Bytes.RemoveRaw(ctx, name); err != nil {
				return err
			}
		}
		said := count.Of(len(names), "file of bytes", "files of bytes")
		if look {
			fmt.Fprintf(out, "%s would be taken away.\n", said)
			return nil
		}
		fmt.Fprintf(out, "%s taken away.\n", said)
		return audit(ctx, st, "files", "cleaned bytes that nothing names: "+said)
	})
	s.databaseFlag(cmd)
	s.filesFlag(cmd)
	cmd.Flags().BoolVar(&look, "look", false, "only say what would be taken away")
	return cmd
}
