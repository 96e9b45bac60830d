package problems

import (
	"vineladder/internal/core/check"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// mayExcuse says whether a person may say of a problem that it is meant so: who may edit what it is about (rules 8).
func mayExcuse(d *desk.Desk, p check.Problem) grant.Answer {
	switch p.On.Family {
	case site.FamilyPage:
		return d.MayOn(string(site.ActionEdit), p.On)
	case site.FamilyMenu:
		return d.MayOn(string(site.ActionLink), p.On)
	case site.FamilyEntry:
		if _, m := desk.Holding(d.Site, site.EntryID(p.On.ID)); m != nil {
			return d.MayOn(string(site.ActionLink), site.MenuThing(m.ID))
		}
	case site.FamilyBlock, site.FamilyPlacement:
		return d.MayOn(string(site.ActionPlace), site.AnyThing)
	}
	return d.MayOn(string(site.ActionKeep), site.SiteThing)
}
