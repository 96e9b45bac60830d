package demo

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// details are what the page types ask for on their pages, in their order.
var details = []site.Detail{
	{
		Key: "harbour.depth", Label: "Depth at chart datum", Type: site.DetailNumber, Unit: "m", Required: true,
		Help: "less than nothing where it dries",
	},
	{Key: "harbour.position", Label: "Position", Type: site.DetailLine, Help: "of the end of the pier"},
	{Key: "harbour.services", Label: "On the pier", Type: site.DetailChoices, Choices: "Fuel\nWater\nShowers\nPower"},
	{Key: "harbour.slipway", Label: "Slipway", Type: site.DetailYes},
	{Key: "harbour.office", Label: "Harbour office", Type: site.DetailPhone, Shows: site.DetailFact},
	{Key: "notice.until", Label: "Valid until", Type: site.DetailDate},
	{
		Key: "notice.severity", Label: "Severity", Type: site.DetailChoice,
		Choices: "For information\nTake care\nDanger",
	},
	{Key: "timetable.season", Label: "In force", Type: site.DetailDates, Required: true},
	{Key: "timetable.routes", Label: "Routes", Type: site.DetailChoices, Choices: "1\n2\n3\n4\n5", Shows: site.DetailFact},
	{Key: "document.file", Label: "File", Type: site.DetailFile},
	{Key: "document.shelf", Label: "Shelf mark", Type: site.DetailLine, Shows: site.DetailEditors},
	{Key: "vacancy.hours", Label: "Hours", Type: site.DetailNumber, Unit: "a week"},
	{Key: "vacancy.apply", Label: "Write to", Type: site.DetailMail, Shows: site.DetailFact},
	{Key: "vacancy.at", Label: "Place of work", Type: site.DetailPage},
}

// makeDetails gives the operations that make them.
func makeDetails() []edit.Op {
	ops := make([]edit.Op, len(details))
	for i, d := range details {
		fields := map[edit.Field]string{
			edit.FieldLabel: d.Label, edit.FieldType: string(d.Type), edit.FieldUnit: d.Unit, edit.FieldChoices: d.Choices,
			edit.FieldHelp: d.Help, edit.FieldShown: string(d.Shows),
		}
		if d.Required {
			fields[edit.FieldRequired] = "yes"
		}
		ops[i] = edit.OpMakeDetail{Detail: d.Key, Fields: fields}
	}
	return ops
}
