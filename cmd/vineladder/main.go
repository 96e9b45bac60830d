// Command vineladder is the whole program: both servers, the demo, and the tools around them.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	endSoon(ctx)
	err := root().ExecuteContext(ctx)
	if err != nil && ctx.Err() != nil && !inOrder.Load() {
		os.Exit(interrupted)
	}
	if err != nil && !errors.Is(err, context.Canceled) {
		fmt.Fprintln(os.Stderr, err)
		if found := new(foundError); errors.As(err, found) {
			os.Exit(problemsFound)
		}
		os.Exit(1)
	}
}

func root() *cobra.Command {
	cmd := &cobra.Command{
		Use:           "vineladder",
		Short:         "Keep a large site tree in order, and see what every edit does before it is public",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	cmd.AddCommand(
		serveCommand(),
		demoCommand(),
		initCommand(),
		migrateCommand(),
		userCommand(),
		roleCommand(),
		auditCommand(),
		backupCommand(),
		restoreCommand(),
		importCommand(), filesCommand(),
		exportCommand(),
		showCommand(),
		checkCommand(),
		generateCommand(),
	)
	return cmd
}

func env(name, fallback string) string {
	if value := os.Getenv(name); value != "" {
		return value
	}
	return fallback
}
