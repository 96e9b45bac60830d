package look

// Count is the number of lines, with those below.
func Count(lines []Line) int {
	n := len(lines)
	for i := range lines {
		n += Count(lines[i].Lines)
	}
	return n
}

// Lit says which lines are lit, by their labels and by where they lead: the way down to the deepest one, and how that
// is marked.
func Lit(lines []Line) (labels, leads string) {
	for i := range lines {
		l := &lines[i]
		if !l.Trail {
			continue
		}
		below, to := Lit(l.Lines)
		if below == "" {
			below, to = Current("", l.Current == "page"), Current("", l.Current == "page")
			if l.Current == "" {
				below, to = "", ""
			}
			return "“" + l.Label + "”" + below, "“" + l.Leads() + "”" + to
		}
		return Above(l.Label, below), Above(l.Leads(), to)
	}
	return "", ""
}

// Above puts a line before the way down from it.
func Above(name, below string) string {
	if below == "" {
		return "“" + name + "”"
	}
	return "“" + name + "” › " + below
}

// Current marks the end of a way: as the current page, or as what is nearest to it.
func Current(way string, page bool) string {
	if page {
		return way + " as this page"
	}
	return way + " as the nearest"
}
