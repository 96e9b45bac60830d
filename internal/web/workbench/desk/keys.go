package desk

import "vineladder/internal/core/ask"

// A keyLine is a shape of the ladder with its name and the number of pages that have it.
type KeyLine struct {
	ask.Question
	Count int
	On    bool // the ladder is cut down to it
}

// KeyView is the key of a ladder: how many rows there are of each shape.
type KeyView struct {
	*Desk
	Lines []KeyLine
	Items []ItemKeyLine // in the menus area
}

// An itemKeyLine is a shape of a menu's ladder with the number of items that have it.
type ItemKeyLine struct {
	Key, Words string
	Count      int
	On         bool
}
