package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/formats/outline"
	"vineladder/internal/formats/redirects"
	"vineladder/internal/formats/sheet"
	"vineladder/internal/intake"
	"vineladder/internal/store"
)

// A tool is a command that works on an opened database.
type tool func(context.Context, *cobra.Command, *store.Store, []string) error

// withStore runs a tool on a database whose tables are there.
func withStore(s *settings, run tool) func(*cobra.Command, []string) error { return on(s.open, run) }

// withTables runs a tool that makes the tables where there are none.
func withTables(s *settings, run tool) func(*cobra.Command, []string) error {
	return on(s.openOrMake, run)
}

func on(
	open func(context.Context, *slog.Logger) (*store.Store, error),
	run tool,
) func(*cobra.Command, []string) error {
	return func(cmd *cobra.Command, args []string) error {
		st, err := open(cmd.Context(), slog.New(slog.NewTextHandler(os.Stderr, nil)))
		if err != nil {
			return err
		}
		defer st.Close()
		return run(cmd.Context(), cmd, st, args)
	}
}

func migrateCommand() *cobra.Command {
	s := &settings{}
	cmd := &cobra.Command{
		Use: "migrate", Short: "Bring the database to the newest schema", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if s.database == "" {
				return errWhichDatabase
			}
			return store.Migrate(cmd.Context(), s.database)
		},
	}
	s.databaseFlag(cmd)
	return cmd
}

func list(joined string) []string {
	return strings.FieldsFunc(joined, func(r rune) bool { return r == ',' || r == ' ' || r == '|' })
}

// An intaking says where what is imported goes: it is public at once, or an edit of a draft.
type intaking struct {
	publish      bool
	draft, login string
}

func (in *intaking) flags(cmd *cobra.Command) {
	cmd.Flags().BoolVar(&in.publish, "publish", false, "make it public at once")
	cmd.Flags().StringVar(&in.draft, "draft", "", "put it into a draft of this name")
	cmd.Flags().StringVar(
		&in.login,
		"for",
		"",
		"sign-in name of who does it, with whose rights; without it the operator does, who may do everything",
	)
}

func (in *intaking) check() error {
	if in.publish == (in.draft != "") {
		return errors.New("say either --publish or --draft NAME")
	}
	return nil
}

// take does the operations, all of them or none.
func (in *intaking) take(ctx context.Context, cmd *cobra.Command, st *store.Store, file string, ops []edit.Op) error {
	said := fmt.Sprintf("imported %s", file)
	by, err := in.who(ctx, st, ops)
	if err != nil {
		return err
	}
	if in.publish {
		_, err = st.PublishDirect(ctx, by, said, ops)
	} else {
		owner := by
		var id int64
		if id, err = st.DraftNamed(ctx, owner.ID, in.draft); err == nil {
			_, err = st.AddStep(ctx, id, owner, said, func(*store.Draft) ([]edit.Op, error) { return ops, nil })
			if err != nil {
				err = errors.Join(err, st.DropUntouched(context.WithoutCancel(ctx), id))
			}
		}
	}
	if err != nil {
		return fmt.Errorf("nothing was imported from %s: %w", file, err)
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%s.\n", count.Of(len(ops), "operation", "operations"))
	return nil
}

// who gives the account in whose name a command acts, with its rights; without --for it is the operator, who may do
// everything.
func (in *intaking) who(ctx context.Context, st *store.Store, ops []edit.Op) (store.Account, error) {
	if in.login == "" {
		if !in.publish {
			return store.Account{}, errors.New("whose draft? Give --for and a sign-in name")
		}
		return store.Account{Name: "the operator"}, nil
	}
	account, err := st.AccountByLogin(ctx, in.login)
	if err != nil {
		return account, err
	}
	on := st.Published().Site
	answer := grant.MayAll(on, on, account.Roles, ops)
	if answer.Yes && in.publish {
		after, _, err := edit.ApplyAll(on, ops, clock.Now())
		if err != nil {
			return account, err
		}
		answer = grant.MayPublish(on, after, account.Roles, []grant.Made{{Ops: ops, Roles: account.Roles}}, clock.Now())
	}
	if !answer.Yes {
		return account, fmt.Errorf("%s may not do this: %s", account.Name, answer.Why)
	}
	return account, nil
}

func importCommand() *cobra.Command {
	s, in := &settings{}, &intaking{}
	pages := &cobra.Command{
		Use:   "pages FILE",
		Short: "Import a structure sheet (CSV or XLSX), all of it or nothing",
		Args:  cobra.ExactArgs(1),
	}
	pages.RunE = withStore(s, func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
		if err := in.check(); err != nil {
			return err
		}
		return importPages(ctx, cmd, st, args[0], in)
	})
	s.databaseFlag(pages)
	in.flags(pages)
	cmd := &cobra.Command{Use: "import", Short: "Bring open formats in"}
	cmd.AddCommand(pages, importMenusCommand(), importTopicsCommand(), importWebpagesCommand(),
		importRedirectsCommand())
	return cmd
}

func importPages(ctx context.Context, cmd *cobra.Command, st *store.Store, file string, in *intaking) error {
	sheetFile, err := os.Open(file)
	if err != nil {
		return err
	}
	defer sheetFile.Close()
	ops, err := intake.Sheet(ctx, st, st.Published().Site, bufio.NewReader(sheetFile), clock.Now())
	if err != nil {
		return fmt.Errorf("nothing was imported from %s:\n%w", file, err)
	}
	if len(ops) == 0 {
		fmt.Fprintln(cmd.OutOrStdout(), "The sheet says what the site has already; nothing changes.")
		return nil
	}
	return in.take(ctx, cmd, st, file, ops)
}

func exportCommand() *cobra.Command {
	s := &settings{}
	var format string
	pages := &cobra.Command{Use: "pages", Short: "Write the structure sheet to standard output", Args: cobra.NoArgs}
	pages.RunE = withStore(s, func(_ context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
		write, known := map[string]func(io.Writer, *site.Site, time.Time) error{
			"csv": sheet.Write, "xlsx": sheet.WriteWorkbook,
		}[format]
		if !known {
			return fmt.Errorf("the format “%s” is not known; there are csv and xlsx", format)
		}
		out := bufio.NewWriter(cmd.OutOrStdout())
		if err := write(out, st.Published().Site, clock.Now()); err != nil {
			return err
		}
		return out.Flush()
	})
	s.databaseFlag(pages)
	pages.Flags().StringVar(&format, "format", "csv", "csv or xlsx")
	cmd := &cobra.Command{Use: "export", Short: "Write open formats out"}
	cmd.AddCommand(pages, exportRedirectsCommand(), exportMenusCommand(), exportTopicsCommand())
	return cmd
}

func exportRedirectsCommand() *cobra.Command {
	s := &settings{}
	var format string
	cmd := &cobra.Command{
		Use:   "redirects",
		Short: "Write short and old addresses with where they lead to standard output",
		Args:  cobra.NoArgs,
	}
	cmd.RunE = withStore(s, func(_ context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
		all := redirects.Of(st.Published().Site, clock.Now())
		switch format {
		case "csv":
			return redirects.WriteCSV(cmd.OutOrStdout(), all)
		case "nginx":
			return redirects.WriteNginx(cmd.OutOrStdout(), all)
		}
		return fmt.Errorf("the format “%s” is not known; there are csv and nginx", format)
	})
	s.databaseFlag(cmd)
	cmd.Flags().StringVar(&format, "format", "csv", "csv, or nginx for a map file")
	return cmd
}

// importRedirectsCommand reads old addresses with the new ones.
func importRedirectsCommand() *cobra.Command {
	s, in := &settings{}, &intaking{}
	var origin string
	cmd := &cobra.Command{
		Use:   "redirects FILE.csv",
		Short: "Import old addresses, a table of “from” and “to”, all of it or nothing",
		Args:  cobra.ExactArgs(1),
	}
	cmd.RunE = withStore(s, func(ctx context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
		if err := in.check(); err != nil {
			return err
		}
		table, err := os.Open(args[0])
		if err != nil {
			return err
		}
		defer table.Close()
		ops, err := redirects.Read(table, st.Published().Site, origin, clock.Now())
		if err != nil {
			return fmt.Errorf("nothing was imported from %s:\n%w", args[0], err)
		}
		return in.take(ctx, cmd, st, args[0], ops)
	})
	s.databaseFlag(cmd)
	in.flags(cmd)
	cmd.Flags().StringVar(&origin, "site-url", env("VINELADDER_SITE_URL", ""),
		"the public site: addresses that begin with it are its own")
	return cmd
}

func exportMenusCommand() *cobra.Command {
	s := &settings{}
	var format, name, origin string
	cmd := &cobra.Command{
		Use:   "menus",
		Short: "Write menus to standard output: one as OPML 2.0, or all as JSON",
		Args:  cobra.NoArgs,
	}
	cmd.RunE = withStore(s, func(_ context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
		on := st.Published().Site
		switch format {
		case "json":
			var all []outline.Menu
			for i := range on.Menus() {
				all = append(all, outline.Of(on, &on.Menus()[i], origin))
			}
			return outline.WriteJSON(cmd.OutOrStdout(), all)
		case "opml":
			m := on.MenuByKey(name)
			if m == nil {
				return fmt.Errorf("there is no menu “%s”; say which with --menu", name)
			}
			return outline.WriteOPML(cmd.OutOrStdout(), outline.Of(on, m, origin), clock.Now())
		}
		return fmt.Errorf("the format “%s” is not known; there are opml and json", format)
	})
	s.databaseFlag(cmd)
	cmd.Flags().StringVar(&format, "format", "opml", "opml or json")
	cmd.Flags().StringVar(&name, "menu", "main-menu", "key of the menu, for opml")
	cmd.Flags().StringVar(
		&origin,
		"site-url",
		env("VINELADDER_SITE_URL", ""),
		"the public site, before the addresses of its pages",
	)
	return cmd
}

func showCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "show", Short: "Say as JSON what the core computes, with reasons"}
	cmd.AddCommand(showPageCommand(), showMenuCommand())
	return cmd
}

// lensFlags are the flags that choose a visitor and a moment.
type lensFlags struct{ audience, moment string }

func (l *lensFlags) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(
		&l.audience,
		"audience",
		"",
		"role keys, separated by commas; “signed-in” for none; empty for a signed-out visitor",
	)
	cmd.Flags().StringVar(&l.moment, "moment", "", "RFC 3339; now if empty")
}

func (l *lensFlags) lens(s *site.Site) (reach.Lens, error) {
	lens := reach.Lens{At: clock.Now()}
	if l.moment != "" {
		at, err := time.Parse(time.RFC3339, l.moment)
		if err != nil {
			return lens, fmt.Errorf("--moment “%s” is not a moment; write 2026-11-24T12:00:00Z", l.moment)
		}
		lens.At = at
	}
	for _, key := range list(l.audience) {
		lens.SignedIn = true
		if key == "signed-in" {
			continue
		}
		if s.Role(key) == nil {
			return lens, fmt.Errorf("--audience: there is no role “%s”", key)
		}
		lens.Roles = append(lens.Roles, key)
	}
	lens.Roles = s.Holds(lens.Roles)
	return lens, nil
}

func pageAt(s *site.Site, path string) (site.PageID, error) {
	normal, err := address.Normal(path)
	if err != nil {
		return 0, err
	}
	found := address.Resolve(s, normal, clock.Now())
	if found.Page == 0 || found.Gone {
		return 0, fmt.Errorf("there is no page at %s", normal)
	}
	return found.Page, nil
}

func printJSON(cmd *cobra.Command, value any) error {
	out := json.NewEncoder(cmd.OutOrStdout())
	out.SetIndent("", "  ")
	out.SetEscapeHTML(false)
	return out.Encode(value)
}

var answers = map[reach.Answer]string{
	reach.Sees:     "sees",
	reach.NotThere: "not found",
	reach.SignIn:   "sign-in",
	reach.NoAccess: "no access",
}

func showPageCommand() *cobra.Command {
	s, l := &settings{}, &lensFlags{}
	cmd := &cobra.Command{
		Use:   "page ADDRESS",
		Short: "A page: where it stands, who sees it, why",
		Args:  cobra.ExactArgs(1),
	}
	cmd.RunE = withStore(s, func(_ context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
		on := st.Published().Site
		lens, err := l.lens(on)
		if err != nil {
			return err
		}
		id, err := pageAt(on, args[0])
		if err != nil {
			return err
		}
		return printJSON(cmd, describePage(on, id, lens))
	})
	s.databaseFlag(cmd)
	l.flags(cmd)
	return cmd
}

type pageFacts struct {
	Key      string `json:"key"`
	Label    string `json:"label"`
	Address  string `json:"address"`
	Level    int    `json:"level"`
	Position int    `json:"position"`
	Of       int    `json:"of"`
	After    string `json:"after,omitempty"`
	Before   string `json:"before,omitempty"`
	Below    int    `json:"pages_below"`
	Status   string `json:"status"`
	Listed   bool   `json:"listed"`
	Audience string `json:"audience"`
	SetOn    string `json:"audience_set_on"`
	Answer   string `json:"answer"`
	Why      string `json:"why,omitempty"`
}

func describePage(s *site.Site, id site.PageID, lens reach.Lens) pageFacts {
	p := s.Page(id)
	index, of := s.Index(id)
	source := reach.Source(s, id)
	facts := pageFacts{
		Key: p.Key, Label: p.Label, Address: address.Of(s, id), Level: s.Level(id), Position: index + 1, Of: of,
		Below: s.Below(id), Status: string(p.Status), Listed: p.Listed,
		Audience: string(source.Audience), SetOn: source.Label,
		Answer: answers[reach.Ask(s, id, lens)],
	}
	if facts.Audience == "" {
		facts.Audience = string(site.AudienceEveryone)
	}
	before, after := s.Neighbours(id)
	if before != 0 {
		facts.After = s.Page(before).Label
	}
	if after != 0 {
		facts.Before = s.Page(after).Label
	}
	if why := reach.WhyOffline(s, id, lens.At); why.Cause != nil && why.Window {
		facts.Why = fmt.Sprintf("“%s” is outside its live window", why.Cause.Label)
	} else if why.Cause != nil {
		facts.Why = fmt.Sprintf("“%s” is offline", why.Cause.Label)
	}
	return facts
}

func showMenuCommand() *cobra.Command {
	s, l := &settings{}, &lensFlags{}
	var at string
	cmd := &cobra.Command{
		Use:   "menu NAME",
		Short: "A menu: what each of its blocks shows on a page",
		Args:  cobra.ExactArgs(1),
	}
	cmd.RunE = withStore(s, func(_ context.Context, cmd *cobra.Command, st *store.Store, args []string) error {
		on := st.Published().Site
		m := on.MenuByKey(args[0])
		if m == nil {
			return fmt.Errorf("there is no menu “%s”", args[0])
		}
		lens, err := l.lens(on)
		if err != nil {
			return err
		}
		current, err := pageAt(on, at)
		if err != nil {
			return err
		}
		shown := map[string][]menuLine{}
		for _, block := range on.Blocks() {
			if id, window, isMenu := block.Menu(); isMenu && id == m.ID {
				shown[block.Name] = menuLines(on, menu.NewView(on, m, lens).Window(window, current))
			}
		}
		return printJSON(cmd, shown)
	})
	s.databaseFlag(cmd)
	l.flags(cmd)
	cmd.Flags().StringVar(&at, "at", "/", "address of the current page")
	return cmd
}

type menuLine struct {
	Label    string     `json:"label"`
	Address  string     `json:"address,omitempty"`
	Level    int        `json:"level"`
	Trail    bool       `json:"trail,omitempty"`
	Current  string     `json:"current,omitempty"`
	Children []menuLine `json:"children,omitempty"`
}

func menuLines(s *site.Site, nodes []menu.Node) []menuLine {
	lines := make([]menuLine, len(nodes))
	for i, n := range nodes {
		lines[i] = menuLine{n.Label, address.Of(s, n.Page), n.Level, n.Trail, n.Current, menuLines(s, n.Children)}
	}
	return lines
}
