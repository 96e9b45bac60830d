// Marks are the rows of a selection. They are kept by id, so they outlive scrolling, filtering and every refresh.
import { desk, get, post, refresh, sheetOf, thing } from './desk.js'

export const marks = new Set()
const labels = new Map() // of marked rows that have been in sight, for the list

export function startMarks(grid) {
  let counting
  const bar = document.querySelector('[data-marked-bar]')

  // leaveSheet gives the sheet back to the selected row.
  function leaveSheet() {
    delete document.body.dataset.many
    refresh()
  }
  // paint shows what is marked, and which row is the current one. Without marks the current row is the selection.
  function paint() {
    for (const row of grid.querySelectorAll('.rung[data-id]')) {
      const here = row.dataset.id === desk.get(thing.key)
      row.setAttribute('aria-selected', String(marks.size ? marks.has(row.dataset.id) : here))
      row.classList.toggle('current', here)
      if (marks.has(row.dataset.id)) labels.set(row.dataset.id, row.dataset.label)
    }
    bar.hidden = !marks.size
    clearTimeout(counting)
    if (!marks.size) {
      if ('many' in document.body.dataset) leaveSheet()
      return
    }
    const inSight = [...marks].filter(id => grid.querySelector(`#row-${id}`)).length
    const out = marks.size - inSight
    const words = bar.querySelector('[data-marked-words]')
    words.textContent = `${marks.size} selected${out ? `, ${out} out of sight` : ''}`
    counting = setTimeout(async () => {
      await sheetOf([...marks])
      const reply = await post(thing.tally, { [thing.many]: [...marks].join(',') }, true)
      if (marks.size && reply.facts) words.textContent = `${reply.facts.place}${out ? `, ${out} out of sight` : ''}`
    }, 250)
    bar.querySelector('[data-marked-list]').replaceChildren(
      ...[...marks].slice(0, 200).map(id => {
        const item = document.createElement('li')
        const go = document.createElement('button')
        Object.assign(go, { type: 'button', textContent: labels.get(id) ?? `Number ${id}` })
        go.dataset.go = id
        const off = document.createElement('button')
        Object.assign(off, { type: 'button', textContent: 'Leave out' })
        off.addEventListener('click', () => {
          marks.delete(id)
          paint()
        })
        item.append(go, ' ', off)
        return item
      }),
    )
  }
  const found = reply => reply.keys ?? reply.ids
  const toggle = row => {
    marks.has(row.dataset.id) ? marks.delete(row.dataset.id) : marks.add(row.dataset.id)
    labels.set(row.dataset.id, row.dataset.label)
    paint()
  }
  const add = ids => {
    for (const id of ids ?? []) marks.add(String(id))
    paint()
  }
  // span marks all rows from the current one to another, also those that are not in the document.
  const span = async row => add(found(await get(thing.ask, { to: row.dataset.id })))
  const all = async () => add(found(await get(thing.ask)))
  const clear = () => {
    marks.clear()
    paint()
  }
  return {
    paint,
    toggle,
    add,
    span,
    all,
    clear,
    form: () => (marks.size ? { [thing.many]: [...marks].join(','), [thing.key]: [...marks][0] } : {}),
  }
}
