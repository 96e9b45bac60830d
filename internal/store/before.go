package store

import "slices"

// versionBefore is the last version of the line before this one; its backups can still be restored.
const versionBefore = 9

// movedFrom gives the statement that brings rows of a table as the line of versions before had it, which are in a table
// of that name with "_before" behind it, into today's.
func movedFrom(table string, columns []string) (statement string, isBefore bool) {
	switch {
	case table == "entries" && slices.Contains(columns, `"leads_to"`):
		return entriesBefore, true
	case table == "blocks" && slices.Contains(columns, `"starts_from"`):
		return blocksBefore, true
	case table == "role_includes":
		return includesBefore, true
	case table == "role_actions":
		return actionsBefore, true
	}
	return "", false
}

// wasTable says whether backups that this program reads have a table that is no more; its rows go into another one.
func wasTable(table string) bool { return table == "role_includes" || table == "role_actions" }

// What roles include and may do stood in tables of their own, up to version 104.
const (
	includesBefore = `UPDATE roles SET includes = ARRAY(SELECT included FROM role_includes_before
		WHERE role = key ORDER BY included COLLATE "C")`
	actionsBefore = `UPDATE roles SET grants = ARRAY(SELECT DISTINCT given || ':site' AS g FROM role_actions_before,
		unnest(CASE action WHEN 'edit' THEN ARRAY['edit', 'classify'] ELSE ARRAY[action] END) AS given
		WHERE role = key ORDER BY g)`
)

// What an item shows, and what a block shows, stood in columns of their own.
const (
	entriesBefore = `INSERT INTO entries (id, menu_id, parent_id, rank, type, settings, label, hint, off, audience,
		live_from, live_until,
			new_tab, badge, badge_pair, badge_before, icon)
		SELECT id::bigint, menu_id::bigint, parent_id::bigint, rank, type, CASE type
				WHEN 'page' THEN jsonb_build_object('page', page_id::bigint)
				WHEN 'branch' THEN jsonb_build_object('root', page_id::bigint, 'depth', depth::int, 'self', self)
				WHEN 'web' THEN jsonb_build_object('address', leads_to)
				WHEN 'file' THEN jsonb_build_object('file', leads_to)
				WHEN 'account' THEN jsonb_build_object('does', leads_to)
				ELSE '{}' END,
			label, coalesce(hint, ''), off::bool, coalesce(audience, ''), live_from::timestamptz, live_until::timestamptz,
			new_tab::bool, coalesce(badge, ''), coalesce(badge_pair, ''), badge_before::bool, coalesce(icon, '')
		FROM entries_before`
	blocksBefore = `INSERT INTO blocks (id, name, title, titled, heading, type, settings)
		SELECT id::bigint, name, title, titled::bool, heading::int, type, CASE type
				WHEN 'menu' THEN jsonb_build_object('menu', menu_id::bigint, 'window', jsonb_build_object('first', first_level::int,
					'levels', levels::int, 'from', starts_from, 'entry', coalesce(entry_id::bigint, 0), 'unfold', unfold))
				WHEN 'text' THEN jsonb_build_object('text', coalesce(text_hash, ''))
				WHEN 'image' THEN jsonb_build_object('file', file, 'alternative', coalesce(alternative, ''))
				ELSE '{}' END
		FROM blocks_before`
)
