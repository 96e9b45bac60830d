package site

// A trie maps small non-negative integers to values. Editing copies the path to the changed leaf and shares the rest,
// so a change costs the trie's height (4 at 16 million keys), and two versions are compared by pointer where they
// agree. The zero trie is empty.
type trie[T any] struct {
	root   *node[T]
	height int // levels of branch nodes above the leaves
}

const (
	fanBits = 6
	fan     = 1 << fanBits
)

// A node is a branch (kids) or a leaf (values); owner is the edit that may still write to it in place.
type node[T any] struct {
	owner  *edit
	kids   *[fan]*node[T]
	values *[fan]T
}

// edit is the right to write in place: nodes made under an edit belong to it until its Site is handed out.
type edit struct{ _ byte }

func (t trie[T]) get(key int64) (value T) {
	if values := t.leaf(key); values != nil {
		return values[key&(fan-1)]
	}
	return value
}

// leaf gives the values of the keys that share all but their last bits; nil if none is there.
func (t trie[T]) leaf(key int64) *[fan]T {
	if key < 0 || t.root == nil || key>>(fanBits*(t.height+1)) != 0 {
		return nil
	}
	n := t.root
	for shift := fanBits * t.height; shift > 0; shift -= fanBits {
		if n = n.kids[key>>shift&(fan-1)]; n == nil {
			return nil
		}
	}
	return n.values
}

// A cursor keeps the leaf that was asked for last: keys that are asked for one after the other are mostly near each
// other.
type cursor[T any] struct {
	of     int64 // what the keys of the leaf share
	values *[fan]T
}

func (c *cursor[T]) get(t trie[T], key int64) (value T) {
	if c.values == nil || key>>fanBits != c.of {
		if c.values, c.of = t.leaf(key), key>>fanBits; c.values == nil {
			return value
		}
	}
	return c.values[key&(fan-1)]
}

func (t *trie[T]) set(e *edit, key int64, value T) {
	if t.root == nil {
		t.root = &node[T]{owner: e, values: new([fan]T)}
	}
	for key>>(fanBits*(t.height+1)) != 0 {
		root := &node[T]{owner: e, kids: new([fan]*node[T])}
		root.kids[0] = t.root
		t.root, t.height = root, t.height+1
	}
	t.root = t.root.with(e, t.height, key, value)
}

func (n *node[T]) with(e *edit, height int, key int64, value T) *node[T] {
	n = n.owned(e, height)
	if height == 0 {
		n.values[key&(fan-1)] = value
		return n
	}
	slot := key >> (fanBits * height) & (fan - 1)
	n.kids[slot] = n.kids[slot].with(e, height-1, key, value)
	return n
}

// owned gives the node itself if e may write to it, else a copy that e may write to.
func (n *node[T]) owned(e *edit, height int) *node[T] {
	if n != nil && n.owner == e {
		return n
	}
	made := &node[T]{owner: e}
	switch {
	case height == 0:
		made.values = new([fan]T)
	default:
		made.kids = new([fan]*node[T])
	}
	switch {
	case n != nil && height == 0:
		*made.values = *n.values
	case n != nil:
		*made.kids = *n.kids
	}
	return made
}

// each visits the keys at which a and b may differ, ascending: every key below the nodes that they don't share.
func eachUnshared[T any](a, b trie[T], visit func(key int64, was, is T)) {
	for a.height < b.height {
		a = a.raised()
	}
	for b.height < a.height {
		b = b.raised()
	}
	eachUnsharedNode(a.root, b.root, a.height, 0, visit)
}

func (t trie[T]) raised() trie[T] {
	root := &node[T]{kids: new([fan]*node[T])}
	root.kids[0] = t.root
	return trie[T]{root, t.height + 1}
}

func eachUnsharedNode[T any](a, b *node[T], height int, base int64, visit func(int64, T, T)) {
	if a == b {
		return
	}
	var none T
	for i := range fan {
		key := base | int64(i)<<(fanBits*height)
		if height > 0 {
			eachUnsharedNode(a.kid(i), b.kid(i), height-1, key, visit)
			continue
		}
		was, is := none, none
		if a != nil {
			was = a.values[i]
		}
		if b != nil {
			is = b.values[i]
		}
		visit(key, was, is)
	}
}

func (n *node[T]) kid(i int) *node[T] {
	if n == nil || n.kids == nil {
		return nil
	}
	return n.kids[i]
}
