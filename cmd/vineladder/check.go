package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"slices"

	"github.com/spf13/cobra"

	"vineladder/internal/clock"
	"vineladder/internal/core/check"
	"vineladder/internal/core/count"
	"vineladder/internal/store"
)

// problemsFound is the exit status of a check that found something; 1 is that of one that could not look.
const problemsFound = 2

// A foundError says that something was found, for programs that look at the exit status.
type foundError struct{ n int }

func (e foundError) Error() string {
	return count.Of(e.n, "problem", "problems") + " of the sort asked for"
}

// checkCommand looks for what is wrong in what is public.
func checkCommand() *cobra.Command {
	s := &settings{}
	var origin, format, fail string
	cmd := &cobra.Command{
		Use:   "check",
		Short: "Find what is wrong in what is public; the exit status is 2 where something is",
		Args:  cobra.NoArgs,
	}
	cmd.RunE = withStore(s, func(ctx context.Context, cmd *cobra.Command, st *store.Store, _ []string) error {
		write, known := checkFormats[format]
		if !known {
			return fmt.Errorf("the format “%s” is not known: say text, json or sarif", format)
		}
		least := slices.Index(check.Weights(), check.Weight(fail))
		if least < 0 && fail != "never" {
			return fmt.Errorf("--fail “%s” is not known: say wrong, doubt, advice or never", fail)
		}
		meant, err := st.WhatIsMeant(ctx)
		if err != nil {
			return err
		}
		careful, err := st.Care(ctx)
		if err != nil {
			return err
		}
		dead, err := st.DeadLinks(ctx)
		if err != nil {
			return err
		}
		look := check.NewLook(st.Published().Site, clock.Now(), origin).With(check.Besides{Care: careful, Links: dead})
		found := check.Find(look).WithFar().All()
		found = slices.DeleteFunc(found, func(p check.Problem) bool { _, is := meant[p.Key()]; return is })
		if err := write(cmd.OutOrStdout(), found); err != nil {
			return err
		}
		n := 0
		for _, p := range found {
			if slices.Index(check.Weights(), check.WeightOf(p)) <= least {
				n++
			}
		}
		if n > 0 {
			return foundError{n}
		}
		return nil
	})
	s.databaseFlag(cmd)
	cmd.Flags().StringVar(&origin, "site-url", env("VINELADDER_SITE_URL", ""),
		"the public site: typed addresses below it are its own pages")
	cmd.Flags().StringVar(&format, "format", "text", "text, json, or sarif: a result of SARIF 2.1.0 a line")
	cmd.Flags().StringVar(&fail, "fail", "wrong", "the lightest problem that counts: wrong, doubt, advice, never")
	return cmd
}

var checkFormats = map[string]func(io.Writer, []check.Problem) error{
	"text": func(out io.Writer, found []check.Problem) error {
		for _, p := range found {
			fmt.Fprintf(out, "%s %s %s: %s\n", check.WeightOf(p), p.Check, p.On, p.Says)
		}
		_, err := fmt.Fprintln(out, count.Of(len(found), "problem", "problems")+".")
		return err
	},
	"json": func(out io.Writer, found []check.Problem) error {
		lines := make([]checkLine, len(found))
		for i, p := range found {
			lines[i] = checkLine{p.Check, string(check.WeightOf(p)), p.On.String(), int64(p.Page), p.Says}
		}
		return json.NewEncoder(out).Encode(lines)
	},
	"sarif": func(out io.Writer, found []check.Problem) error {
		lines := json.NewEncoder(out)
		for _, p := range found {
			if err := lines.Encode(sarifOf(p)); err != nil {
				return err
			}
		}
		return nil
	},
}

// A checkLine is a problem as programs read it.
type checkLine struct {
	Check  string `json:"check"`
	Weight string `json:"weight"`
	On     string `json:"on"`
	Page   int64  `json:"page,omitempty"`
	Says   string `json:"says"`
}

// A sarifResult is a result object of SARIF 2.1.0 (OASIS, section 3.27), with the thing as its logical location.
type sarifResult struct {
	RuleID    string          `json:"ruleId"`
	Level     string          `json:"level"`
	Message   sarifMessage    `json:"message"`
	Locations []sarifLocation `json:"locations"`
}

type sarifMessage struct {
	Text string `json:"text"`
}

type sarifLocation struct {
	Logical []sarifLogical `json:"logicalLocations"`
}

type sarifLogical struct {
	Name string `json:"fullyQualifiedName"`
	Kind string `json:"kind"`
}

func sarifOf(p check.Problem) sarifResult {
	level := map[check.Weight]string{check.Wrong: "error", check.Doubt: "warning", check.Advice: "note"}
	at := sarifLogical{p.On.String(), string(p.On.Family)}
	return sarifResult{
		p.Check, level[check.WeightOf(p)], sarifMessage{p.Says}, []sarifLocation{{[]sarifLogical{at}}},
	}
}
