package check

import "vineladder/internal/core/site"

func liveBelowOffline() Check {
	return Check{
		Key: "live-below-offline", Name: "Live pages below one that is offline", Weight: Doubt,
		Why: "A page is online only while all above it are (rules 4.1).",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			if at.Offline != nil && at.Offline.ID == p.Parent && at.Offline.Status == site.StatusOffline &&
				l.online(p) &&
				!site.IsOwnKind(p.Kind) {
				tell(site.PageThing(p.ID), p.ID, "", "%s is set to live and is not online: %s above it is offline.",
					l.label(p.ID), l.label(at.Offline.ID))
			}
		},
	}
}
