// The keys of every area stand in one table, from which they are pressed and listed. A stroke is a letter, or a key with
// Ctrl; “does” names what the area does, “says” what the list says of it in each area that has it.
import { say } from './desk.js'

const tree = 'tree'
const menus = 'menus'
const topics = 'topics'
const files = 'files'
const layouts = 'layouts'

const everywhere = words => Object.fromEntries([...Object.keys(areas), ...views].map(area => [area, words]))
const ladders = (pages, items) => ({
  [tree]: pages,
  [topics]: pages.replace('page', 'topic'),
  ...(pages.startsWith('new ') ? {} : { [files]: pages.replace('page', 'file') }),
  [menus]: items ?? pages,
})
const ofPages = words => ({ [tree]: words, [topics]: words, [files]: words })

// The areas by the letter that follows A.
export const areas = {
  tree: 't',
  topics: 'o',
  files: 'f',
  types: 'y',
  menus: 'm',
  layouts: 'l',
  access: 'a',
  problems: 'r',
  reviews: 'v',
  start: 'h',
  picture: 'p',
  drafts: 'd',
  settings: 's',
}

// Views are reached from an area and have no letter.
const views = ['numbers', 'compare', 'table', 'write', 'wording', 'versions', 'import']

export const strokes = [
  { key: '/', does: 'find', says: everywhere('find a page, menu, item or block') },
  { key: 'n', does: 'make-after', says: ladders('new page after', 'new item after') },
  { key: 'b', does: 'make-before', says: ladders('new page before', 'new item before') },
  { key: 'i', does: 'make-into', says: ladders('new page inside', 'new item below') },
  { key: 'm', does: 'move-to', says: { ...ladders('move to…'), [layouts]: 'move to…' } },
  { key: 'l', does: 'list', says: ofPages('listed or not') },
  { key: 'g', does: 'tag', says: { [tree]: 'give it a topic', [topics]: 'give it to a page' } },
  {
    key: 'o',
    does: 'online',
    says: { ...ladders('online or not', 'switched on or off'), [layouts]: 'switched on or off' },
  },
  { key: 'k', does: 'copy-label', says: ladders('copy the label as words') },
  { key: 'u', does: 'copy-address', says: ofPages('copy the whole address') },
  { key: 'f', does: 'filter', says: ofPages('cut the ladder down') },
  { key: 'p', does: 'preview', says: { ...ladders('preview'), [layouts]: 'preview' } },
  { key: 'v', does: 'see', says: ofPages('see it in public') },
  { key: 'w', does: 'new-menu', says: { [menus]: 'new menu' } },
  { key: 'F4', does: 'write', says: { [tree]: 'write its text', write: 'back to the tree' }, typing: true },
  { key: 'e', does: 'as-table', says: ofPages('edit several as a table: the selection, the answers, or the branch') },
  { key: 'r', does: 'reword', says: { [tree]: 'find and replace in the branch' } },
  { key: 't', does: 'take-back', says: everywhere('take back what was just published') },
  { key: '?', does: 'help', says: everywhere('this list') },
  { key: 'Ctrl A', does: 'mark-all', says: ladders('select all siblings, or all that were found') },
  { key: 'Ctrl X', does: 'carry', says: ladders('carry') },
  { key: 'Ctrl C', does: 'copy', says: ladders('copy') },
  { key: 'Ctrl V', does: 'drop', says: ladders('put after the row') },
  { key: 'Ctrl Z', does: 'undo', says: everywhere('undo'), typing: false },
  { key: 'Ctrl Shift Z', does: 'redo', says: everywhere('redo'), typing: false },
  { key: 'Ctrl Y', does: 'redo', says: {}, typing: false },
  { key: 'Ctrl Enter', does: 'review', says: everywhere('review and publish'), typing: true },
]

// Moves are what the ladder and the map do by themselves, as the ARIA patterns of their kinds say.
const moves = {
  tree: [
    ['↑ ↓ Home End', 'to another page'],
    ['→ ←', 'open, into the cells; close, to the page above'],
    ['Enter, F2', 'to the sheet; to the label'],
    ['Alt ↑ ↓', 'up or down among its siblings; a selection together'],
    ['Alt → ←', 'into the page before; out, after the page above'],
    ['Space, Shift ↑ ↓', 'select more than one page'],
    ['Shift F10', 'to the tools of the row'],
    ['Delete', 'into the bin'],
  ],
  menus: [
    ['↑ ↓ Home End', 'to another item'],
    ['→ ←', 'open, into the cells; close, to the item above'],
    ['Enter, F2', 'to the sheet; to the label'],
    ['Alt ↑ ↓', 'up or down among its siblings; a selection together'],
    ['Alt → ←', 'below the item before; out, after the item above'],
    ['Space, Shift ↑ ↓', 'select more than one item'],
    ['Shift F10', 'to the tools of the row'],
    ['Delete', 'out of the menu; its page stays'],
  ],
  layouts: [
    ['↑ ↓ ← →', 'to another block; to another region'],
    ['Alt ↑ ↓', 'up or down in its region'],
    ['Alt ← →', 'to the region before or after'],
    ['Space', 'select more than one block'],
    ['Delete', 'out of the region; the block is kept'],
  ],
}
moves.table = [
  ['↑ ↓ ← → Home End', 'to another cell; with Ctrl to the end'],
  ['Enter, F2, a letter', 'type into the cell; Enter or Tab goes on, Escape gives up'],
  ['Shift ↑ ↓ ← →', 'select more cells; Ctrl Space the column, Ctrl A all'],
  ['Alt ↓', 'fill down: the cell below, or all that is selected'],
  ['Ctrl C, Ctrl V', 'copy and paste, also from and to spreadsheets'],
  ['Delete', 'empty the cells'],
  ['Ctrl S', 'take what is typed into the draft'],
]
moves.files = moves.tree.map(([keys, words]) => [keys, words.replaceAll('page', 'file')])
moves.topics = moves.tree.map(([keys, words]) => [keys, words.replaceAll('page', 'topic')])
const anywhere = [
  ['A, then a letter', 'to an area: Tree, tOpics, Files, tYpes, Menus, Layouts, Access, Picture, Drafts, Settings'],
  ['F6', 'to the next pane, and after the last to the browser'],
  ['Escape', 'back to the ladder; in a field, the value that stood'],
]

// nameOf writes a pressed key as the table does.
export function nameOf(event) {
  const key = event.key.length === 1 ? event.key.toUpperCase() : event.key
  if (!event.ctrlKey && !event.metaKey) return event.key.length === 1 ? event.key.toLowerCase() : event.key
  return `Ctrl ${event.shiftKey ? 'Shift ' : ''}${key}`
}

// strokeOf gives what a key does in an area; null where it does nothing.
export const strokeOf = (area, name) =>
  strokes.find(s => s.key === name && (area in s.says || !Object.keys(s.says).length)) ?? null

// listKeys writes the list of an area.
export function listKeys(list, area) {
  const lines = [
    ...(moves[area] ?? []),
    ...strokes.filter(s => area in s.says).map(s => [s.key.length === 1 ? s.key.toUpperCase() : s.key, s.says[area]]),
    ...anywhere,
  ]
  list.replaceChildren(
    ...lines.flatMap(([key, words]) => {
      const [dt, dd] = [document.createElement('dt'), document.createElement('dd')]
      dt.textContent = key
      dd.textContent = words
      return [dt, dd]
    }),
  )
}

// startStrokes has the keys of the table do what they say. Letters and most chords are the ladder's or the map's, and no
// field's; while a dialog is open it has the keys.
export function startStrokes(acts) {
  const { area } = document.body.dataset
  let leading = false // A was pressed: the next letter names an area
  const letters = () => localStorage.getItem('letters') !== 'off'
  // What works while typing comes before the field or the editor hears of it.
  document.addEventListener(
    'keydown',
    event => {
      const stroke = !event.altKey && strokeOf(area, nameOf(event))
      if (!stroke?.typing || !acts[stroke.does] || document.querySelector('dialog[open]')) return
      event.preventDefault()
      event.stopPropagation()
      acts[stroke.does](document.activeElement)
    },
    true,
  )
  document.addEventListener('keydown', event => {
    if (event.defaultPrevented || event.altKey || document.querySelector('dialog[open]')) return
    if (event.target.closest('input, textarea, select, [contenteditable="true"]')) return
    const name = nameOf(event)
    const isLetter = name.length === 1
    if (isLetter && !letters()) return
    if (leading && isLetter) {
      leading = false
      const to = Object.keys(areas).find(a => areas[a] === name)
      if (to) {
        event.preventDefault()
        document.querySelector(`.areas a[href^="/${to}"]`)?.click()
      }
      return
    }
    if (name === 'a') {
      leading = true
      say(
        `A … to which area? ${Object.entries(areas)
          .map(([area, letter]) => `${letter.toUpperCase()} ${area}`)
          .join(', ')}.`,
      )
      return
    }
    const stroke = strokeOf(area, name)
    if (!stroke || stroke.typing || !acts[stroke.does]) return
    const ofRows = !isLetter && !('typing' in stroke) // Ctrl C and its like are the browser's elsewhere
    if (ofRows && !event.target.closest('.rung')) return
    event.preventDefault()
    acts[stroke.does](document.activeElement)
  })
  document.addEventListener('keydown', event => {
    if (event.key !== 'F6' || document.querySelector('dialog[open]')) return
    const all = [
      ...document.querySelectorAll(
        '.bar, .head, .menu-head, .ladder-scroll, .pane-map, .pane-sheet, .pane-gets, .reading, .dock',
      ),
    ]
    const panes = all.filter(pane => pane.offsetParent && pane.querySelector(reachable))
    const at = panes.findIndex(pane => pane.contains(document.activeElement))
    const to = panes[event.shiftKey ? (at < 0 ? panes.length : at) - 1 : at + 1]
    if (!to) return // the browser goes on to its own
    event.preventDefault()
    const first = to.querySelector('[tabindex="0"]') ?? to.querySelector('h1[tabindex]') ?? to.querySelector(reachable)
    first.focus()
  })
}
const reachable = 'a[href], button:not([disabled]), input:not([disabled]), select:not([disabled]), [tabindex="0"]'
