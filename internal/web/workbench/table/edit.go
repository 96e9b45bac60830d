package table

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grid"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
	"vineladder/internal/web/workbench/desk"
)

// A sent cell is one as the screen sends it: its page, its column, what stood there and what does now, in a list.
type sent struct{ grid.Cell }

func (c *sent) UnmarshalJSON(list []byte) error {
	return json.Unmarshal(list, &[]any{&c.Page, &c.Column, &c.Was, &c.Text})
}

// cellsOf reads what was typed into a table.
func cellsOf(r *http.Request) ([]grid.Cell, error) {
	var sent []sent
	if err := json.Unmarshal([]byte(r.FormValue("cells")), &sent); err != nil {
		return nil, typed.Refuse("The table did not arrive whole. What you typed is still here; try again.")
	}
	cells := make([]grid.Cell, len(sent))
	for i, c := range sent {
		cells[i] = c.Cell
		cells[i].Text = strings.ReplaceAll(c.Text, "\r\n", "\n")
	}
	return cells, nil
}

// A checked is what a table is told of what was typed.
type checked struct {
	Faults  []grid.Fault `json:"faults"`
	Remarks []grid.Fault `json:"remarks"`
	Words   string       `json:"words"`
	Changes []string     `json:"changes"`
	Turn    bool         `json:"turn"` // days can be read with day and month the other way round
}

// plan reads the cells of a request on what the draft has.
func (s *Area) plan(r *http.Request, d *desk.Desk) (*grid.Plan, error) {
	cells, err := cellsOf(r)
	if err != nil {
		return nil, err
	}
	of, err := s.tableOf(r, d)
	if err != nil {
		return nil, err
	}
	reads := d.Reader()
	for _, c := range cells {
		if column := of.Column(c.Column); column != nil && column.Inner() && d.Site.InTree(c.Page) && !reads(c.Page) {
			return nil, fmt.Errorf("%w: %s", desk.ErrForbidden, d.Reads(c.Page).Why)
		}
	}
	plan := of.Plan(cells)
	if len(plan.Faults) > 0 || len(plan.Ops) == 0 {
		return plan, nil
	}
	if _, _, err := d.Draft.Next(plan.Ops, d.Now); err != nil {
		plan.Faults = grid.Refused(d.Draft.Site, plan.Ops, d.Now)
	}
	return plan, nil
}

// try says what is wrong with the cells, and what they would change.
func (s *Area) try(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	plan, err := s.plan(r, d)
	if err != nil {
		return err
	}
	said := checked{Faults: plan.Faults, Remarks: plan.Remarks, Words: changedWords(plan), Turn: plan.Turns}
	if len(plan.Faults) == 0 && len(plan.Ops) > 0 {
		make := func(*site.Site) ([]edit.Op, string, error) { return plan.Ops, "", nil }
		if _, said.Changes, err = s.Tried(r, d, make); err != nil {
			return err
		}
	}
	s.Say(w, http.StatusOK, desk.Reply{Sides: said})
	return nil
}

// changedWords says how much is typed.
func changedWords(plan *grid.Plan) string {
	return count.Of(plan.Cells, "cell", "cells") + " on " + count.Pages(plan.Pages)
}

// edit takes the cells into the draft, all as one step or none.
func (s *Area) edit(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	plan, err := s.plan(r, d)
	switch {
	case err != nil:
		return err
	case len(plan.Faults) > 0:
		first := plan.Faults[0]
		label := "a page that is gone"
		if p := d.Site.Page(first.Page); p != nil {
			label = "“" + desk.Short(p.Label) + "”"
		}
		return typed.Refuse("%s can't be taken as they are. On %s: %s",
			count.Of(len(plan.Faults), "cell", "cells"), label, first.Sentence)
	case len(plan.Ops) == 0:
		return &edit.Refusal{Sentence: "Nothing in the table is other than it was."}
	}
	words := "changed " + changedWords(plan)
	_, _, err = s.InDraft(r, d, func(*site.Site) ([]edit.Op, string, error) { return plan.Ops, words, nil })
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: "Changed " + changedWords(plan) + "."})
	return nil
}

// turn gives days that were typed with day and month the other way round as the site writes them.
func (s *Area) turn(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	cells, err := cellsOf(r)
	if err != nil {
		return err
	}
	of, err := s.tableOf(r, d)
	if err != nil {
		return err
	}
	var texts []string
	for _, c := range of.Turned(cells) {
		texts = append(texts, c.Text)
	}
	s.Say(w, http.StatusOK, desk.Reply{Sides: texts})
	return nil
}
