package desk

// A Tool is one of those that stand at the selected row: what it does, how it looks, its words and key.
type Tool struct {
	Do, Icon, Words, Key string
	Locked               bool
}

// Tool is one that is always at hand.
func (d *Desk) Tool(do, icon, words, key string) Tool { return Tool{do, icon, words, key, false} }

// EditTool is one that changes the draft.
func (d *Desk) EditTool(do, icon, words, key string) Tool {
	return Tool{do, icon, words, key, d.State == "now"}
}
