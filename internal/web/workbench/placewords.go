package workbench

import "vineladder/internal/core/region"

// reasonWords says why a block does not show on a page, as the end of a sentence.
func (d *desk) reasonWords(reason region.Reason) string {
	switch reason {
	case region.Off:
		return "it is switched off there"
	case region.Layout:
		return "it stands in another layout"
	case region.NoRegion:
		return "the page's layout has no such region"
	case region.Elsewhere:
		return "the page is not among those that it is for"
	case region.LeftOut:
		return "the page is left out"
	case region.Kind:
		return "it is for pages of another type"
	case region.NotKind:
		return "pages of this type are left out"
	case region.Others:
		return "it is for other visitors"
	case region.Time:
		return "it is outside its time"
	case region.Gone:
		return "everything that its condition names is gone"
	case region.Empty:
		return "it has nothing to show here"
	}
	return ""
}
