package main

import (
	"context"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/formats/skos"
	"vineladder/internal/store"
)

// remarkLimit is the number of remarks of an import that are told.
const remarkLimit = 10

// importTopicsCommand reads topic lists. Concepts that came before are known again.
func importTopicsCommand() *cobra.Command {
	s, in := &settings{}, &intaking{}
	var origin string
	cmd := &cobra.Command{
		Use:   "topics FILE",
		Short: "Import topic lists from SKOS in Turtle, RDF/XML or JSON-LD, all of it or nothing",
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
		read, err := skos.Read(document)
		if err != nil {
			return fmt.Errorf("nothing was imported from %s:\n%w", args[0], err)
		}
		newIDs := func(n int) ([]site.PageID, error) { return st.NewPageIDs(ctx, n) }
		before, place, err := edit.ListsPlace(st.Published().Site, newIDs)
		if err != nil {
			return err
		}
		plan, err := read.Brings(st.Published().Site, origin, place, newIDs)
		if err != nil {
			return err
		}
		out := cmd.OutOrStdout()
		for i, remark := range read.Remarks {
			if i == remarkLimit {
				fmt.Fprintf(out, "and %d more\n", len(read.Remarks)-i)
				break
			}
			fmt.Fprintln(out, remark)
		}
		fmt.Fprintf(out, "%s and %s are new, %s changed, %s that the document does not name stay.\n",
			count.Of(plan.Lists, "topic list", "topic lists"), count.Of(plan.Made, "topic", "topics"),
			count.Of(plan.Changed, "is", "are"), count.Number(plan.Missing))
		if len(plan.Ops) == 0 {
			fmt.Fprintln(out, "The document says what the site has already; nothing changes.")
			return nil
		}
		if plan.Lists > 0 {
			plan.Ops = append(before, plan.Ops...)
		}
		return in.take(ctx, cmd, st, args[0], plan.Ops)
	})
	s.databaseFlag(cmd)
	in.flags(cmd)
	siteURLFlag(cmd, &origin)
	return cmd
}

func siteURLFlag(cmd *cobra.Command, origin *string) {
	const says = "the public site: the names of topics that were made here begin with it"
	cmd.Flags().StringVar(origin, "site-url", env("VINELADDER_SITE_URL", ""), says)
}

func exportTopicsCommand() *cobra.Command {
	s := &settings{}
	var origin, format, list string
	cmd := &cobra.Command{Use: "topics", Short: "Write topic lists as SKOS to standard output", Args: cobra.NoArgs}
	cmd.RunE = withStore(s, func(_ context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
		on := st.Published().Site
		var lists []site.PageID
		for _, id := range on.TopicLists() {
			if on.Page(id).Key == list {
				lists = append(lists, id)
			}
		}
		if list != "" && len(lists) == 0 {
			return fmt.Errorf("there is no topic list with the key “%s”", list)
		}
		return skos.Write(cmd.OutOrStdout(), on, lists, origin, format)
	})
	s.databaseFlag(cmd)
	siteURLFlag(cmd, &origin)
	cmd.Flags().StringVar(&format, "format", "turtle", "turtle, xml (RDF/XML) or json (JSON-LD)")
	cmd.Flags().StringVar(&list, "list", "", "key of the one list to write; without it all")
	return cmd
}
