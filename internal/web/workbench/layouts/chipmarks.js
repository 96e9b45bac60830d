// Marked chips are the blocks of a selection: the sheet is then that of all of them.
import { desk, onRefresh, refresh, say, sheetOf } from '../desk/desk.js'

export function startChipMarks() {
  const marked = new Set()
  let asking
  const chips = () => document.querySelectorAll('.map .chip')

  function paint() {
    for (const chip of chips()) {
      const { chip: id } = chip.dataset
      chip.classList.toggle('marked', marked.has(id))
      chip.ariaPressed = String(marked.size ? marked.has(id) : id === desk.get('chip'))
    }
    clearTimeout(asking)
    if (marked.size) asking = setTimeout(() => sheetOf([...marked]), 150)
    else if ('many' in document.body.dataset) {
      delete document.body.dataset.many
      refresh()
    }
  }
  function toggle(chip) {
    const { chip: id } = chip.dataset
    marked.has(id) ? marked.delete(id) : marked.add(id)
    document.body.dataset.many = marked.size
    paint()
    say(marked.size === 1 ? 'One block selected.' : `${marked.size} blocks selected.`)
  }
  function clear() {
    if (!marked.size) return false
    marked.clear()
    paint()
    return true
  }
  onRefresh(() => {
    for (const id of marked) if (!document.querySelector(`#chip-${CSS.escape(id)}`)) marked.delete(id)
    if (marked.size || 'many' in document.body.dataset) paint()
  })
  return { toggle, clear, has: id => marked.has(id), form: () => (marked.size ? { chips: [...marked].join(',') } : {}) }
}
