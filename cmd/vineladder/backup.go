package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"

	"github.com/spf13/cobra"

	"vineladder/internal/store"
)

func backupCommand() *cobra.Command {
	s := &settings{}
	cmd := toolOn(
		s,
		&cobra.Command{Use: "backup FILE", Short: "Write all tables and files into one file", Args: cobra.ExactArgs(1)},
		func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
			if _, err := os.Lstat(args[0]); err == nil {
				return fmt.Errorf("%s: %w", args[0], os.ErrExist)
			}
			kept, err := s.kept(ctx)
			if err != nil {
				return err
			}
			defer kept.Bytes.Close()
			err = writeWhole(args[0], func(out *os.File) error {
				buffered := bufio.NewWriterSize(out, 1<<20)
				return errors.Join(st.Backup(ctx, buffered, kept), buffered.Flush())
			})
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Backed up into %s.\n", args[0])
			return audit(ctx, st, "backup", "backed up")
		},
	)
	s.filesFlag(cmd)
	return cmd
}

func restoreCommand() *cobra.Command {
	s := &settings{}
	cmd := &cobra.Command{
		Use:   "restore FILE",
		Short: "Restore a backup into an empty database",
		Args:  cobra.ExactArgs(1),
	}
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if s.database == "" {
			return errWhichDatabase
		}
		in, err := os.Open(args[0])
		if err != nil {
			return err
		}
		defer in.Close()
		kept, err := s.kept(cmd.Context())
		if err != nil {
			return err
		}
		defer kept.Bytes.Close()
		if err := store.Restore(cmd.Context(), s.database, bufio.NewReaderSize(in, 1<<20), kept); err != nil {
			return err
		}
		st, err := s.open(cmd.Context(), slog.New(slog.NewTextHandler(os.Stderr, nil)))
		if err != nil {
			return err
		}
		defer st.Close()
		fmt.Fprintf(
			cmd.OutOrStdout(),
			"Restored from %s. What was planned is held back; people sign in anew.\n",
			args[0],
		)
		return audit(cmd.Context(), st, "restore", "restored from a backup")
	}
	s.databaseFlag(cmd)
	s.filesFlag(cmd)
	return cmd
}
