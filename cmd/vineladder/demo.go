package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"vineladder/internal/demo"
	"vineladder/internal/localpg"
	"vineladder/internal/standin"
	"vineladder/internal/store"
)

func demoCommand() *cobra.Command {
	s := &settings{}
	var fresh bool
	var dir string
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Start PostgreSQL in .local/, load the demo site if there is none, and serve it",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return runDemo(cmd.Context(), *s, dir, fresh, cmd.OutOrStdout())
		},
	}
	s.flags(cmd)
	cmd.Flags().BoolVar(&fresh, "fresh", false, "begin again with an untouched demo; what was edited is lost")
	cmd.Flags().StringVar(&s.standInAddr, "organisation-addr", "127.0.0.1:8083",
		"where a stand-in for an organisation's own sign-in listens; “-” for nowhere")
	cmd.Flags().StringVar(&dir, "dir", ".local/postgres", "where PostgreSQL keeps its files")
	return cmd
}

func runDemo(ctx context.Context, s settings, dir string, fresh bool, out io.Writer) (err error) {
	inOrder.Store(true)
	addrs := []string{s.siteAddr, s.workbenchAddr}
	if s.standInAddr != "-" && s.standInAddr != "" {
		addrs = append(addrs, s.standInAddr)
	}
	if err := checkPorts(ctx, addrs...); err != nil {
		return err
	}
	if fresh {
		if err := os.RemoveAll(dir); err != nil {
			return err
		}
	}
	if s.files == "files" {
		s.files = filepath.Join(filepath.Dir(dir), "files")
	}
	fmt.Fprintln(out, "Starting PostgreSQL …")
	// PostgreSQL outlives our last query, so it is not bound to ctx.
	pg, err := localpg.Start(context.WithoutCancel(ctx), dir)
	if err != nil {
		return err
	}
	defer func() {
		fmt.Fprintln(out, "Stopping PostgreSQL …")
		if stopped := pg.Close(); err == nil {
			err = stopped
		}
	}()
	if err := pg.CreateDatabase(ctx, "vineladder"); err != nil {
		return err
	}
	s.database = pg.URL("vineladder")
	if err := store.Migrate(ctx, s.database); errors.Is(err, store.ErrSchemaBefore) {
		return errors.New("this demo was made by an older program; begin anew with “vineladder demo --fresh”")
	} else if err != nil {
		return err
	}
	logs, err := os.OpenFile(
		filepath.Join(filepath.Dir(dir), "vineladder.log"),
		os.O_CREATE|os.O_APPEND|os.O_WRONLY,
		0o644,
	)
	if err != nil {
		return err
	}
	defer logs.Close()
	log := slog.New(slog.NewJSONHandler(logs, nil))
	defer keep(ctx, pg, log)()
	st, err := store.Open(ctx, s.database, log)
	if err != nil {
		return err
	}
	defer st.Close()
	if st.IsEmpty() {
		fmt.Fprintln(out, "Building the demo site …")
		host := s.siteAddr
		if u, err := url.Parse(s.siteURL); err == nil && u.Host != "" {
			host = u.Host
		}
		if err := demo.Load(ctx, st, host); err != nil {
			return err
		}
		kept, err := s.kept(ctx)
		if err != nil {
			return err
		}
		if err := errors.Join(demo.Papers(ctx, st, kept.Bytes, host), kept.Bytes.Close()); err != nil {
			return err
		}
		fmt.Fprintln(out, "Adding six years of notices, minutes and documents …")
		if err := demo.Grow(ctx, st); err != nil {
			return err
		}
	}
	if err := s.standIn(ctx); err != nil {
		return err
	}
	return serve(ctx, st, s, log, func() { greet(out, s, logs.Name()) })
}

// standIn serves the organisation's own sign-in of the demo, until ctx ends; an address “-” does without.
func (s *settings) standIn(ctx context.Context) error {
	if s.standInAddr == "-" || s.standInAddr == "" {
		return nil
	}
	at, err := listen(ctx, s.standInAddr)
	if err != nil {
		return err
	}
	s.outsideIssuer, s.outsideClient = "http://"+at.Addr().String(), demo.OrganisationClient
	s.outsideSecret, s.outsideName = demo.OrganisationSecret, "the Board's account"
	provider, err := standin.New(s.outsideIssuer, s.outsideClient, s.outsideSecret, demo.Organisation())
	if err != nil {
		return err
	}
	server := &http.Server{Handler: provider, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = server.Serve(at) }() // it ends with the program
	context.AfterFunc(ctx, func() { server.Close() })
	return nil
}

// keep has PostgreSQL started again when it ends, until the function given back is called.
func keep(ctx context.Context, pg *localpg.Server, log *slog.Logger) (end func()) {
	ctx, cancel := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() {
		defer close(done)
		pg.Keep(ctx, func(what string, err error) { log.Warn(what, "error", err) })
	}()
	return func() { cancel(); <-done }
}

// checkPorts finds a taken port before anything is started.
func checkPorts(ctx context.Context, addrs ...string) error {
	for _, addr := range addrs {
		l, err := listen(ctx, addr)
		if err != nil {
			return err
		}
		if err := l.Close(); err != nil {
			return err
		}
	}
	return nil
}

func greet(out io.Writer, s settings, logs string) {
	site, _ := origin(s.siteURL, s.siteAddr)
	bench, _ := origin(s.workbenchURL, s.workbenchAddr)
	fmt.Fprintf(out, "\n  Public site   %s\n  Workbench     %s\n\n  Accounts, for both:\n", site, bench)
	for _, a := range demo.Accounts {
		fmt.Fprintf(out, "    %-10s %-24s %s, %s\n", a.Login, a.Password, a.Name, a.Does)
	}
	if s.outsideIssuer != "" {
		fmt.Fprintf(out, "\n  “Sign in with %s” leads to a stand-in for the organisation's own sign-in.\n", s.outsideName)
	}
	fmt.Fprintf(out, "\n  Logs go to %s. Ctrl+C stops both sites and PostgreSQL.\n\n", logs)
}

func generateCommand() *cobra.Command {
	s := &settings{}
	of := demo.Synthetic{}
	cmd := &cobra.Command{Use: "generate", Short: "Fill an empty database with a synthetic site", Args: cobra.NoArgs}
	cmd.RunE = withTables(s, func(ctx context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
		if of.Pages < 1 || of.Pages > 1_000_000 {
			return fmt.Errorf("--pages is a number from 1 to 1,000,000, not %d", of.Pages)
		}
		start := time.Now()
		err := demo.Generate(ctx, st, of, func(p demo.Progress) {
			fmt.Fprintf(
				cmd.ErrOrStderr(),
				"%6.1f s  %d of %d %s\n",
				time.Since(start).Seconds(),
				p.Done,
				p.Total,
				p.What,
			)
		})
		if err == nil {
			fmt.Fprintf(cmd.OutOrStdout(), "%d pages.\n", st.Published().Site.Count())
		}
		return err
	})
	s.databaseFlag(cmd)
	cmd.Flags().IntVar(&of.Pages, "pages", 10_000, "number of pages, to 1,000,000")
	cmd.Flags().Uint64Var(&of.Seed, "seed", 1, "one seed gives one site")
	return cmd
}
