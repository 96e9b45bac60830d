// Marks are the pages of a selection. They are kept by id, so they outlive scrolling, filtering and every refresh.
import { desk, get, post } from './desk.js'

export const marks = new Set()
const labels = new Map() // of marked pages that have been in sight, for the list

export function startMarks(grid) {
  let counting
  const bar = document.querySelector('[data-marked-bar]')
  const tools = document.querySelector('.tools')

  // paint shows what is marked, and which row is the current one. Without marks the current row is the selection.
  function paint() {
    for (const row of grid.querySelectorAll('.rung[data-page]')) {
      const here = row.dataset.page === desk.get('page')
      row.setAttribute('aria-selected', String(marks.size ? marks.has(row.dataset.page) : here))
      row.classList.toggle('current', here)
      if (marks.has(row.dataset.page)) labels.set(row.dataset.page, row.dataset.label)
    }
    bar.hidden = !marks.size
    tools.hidden = marks.size > 0
    if (!marks.size) return
    const inSight = [...marks].filter(id => grid.querySelector(`#row-${id}`)).length
    const out = marks.size - inSight
    const words = bar.querySelector('[data-marked-words]')
    words.textContent = `${marks.size} selected${out ? `, ${out} out of sight` : ''}`
    clearTimeout(counting)
    counting = setTimeout(async () => {
      const reply = await post('/tally', { pages: [...marks].join(',') }, true)
      if (marks.size && reply.facts) words.textContent = `${reply.facts.place}${out ? `, ${out} out of sight` : ''}`
    }, 250)
    bar.querySelector('[data-marked-list]').replaceChildren(...[...marks].slice(0, 200).map(id => {
      const item = document.createElement('li')
      const go = document.createElement('button')
      Object.assign(go, { type: 'button', textContent: labels.get(id) ?? `Page ${id}` })
      go.dataset.go = id
      const off = document.createElement('button')
      Object.assign(off, { type: 'button', textContent: 'Leave out' })
      off.addEventListener('click', () => { marks.delete(id); paint() })
      item.append(go, ' ', off)
      return item
    }))
  }
  const toggle = row => {
    marks.has(row.dataset.page) ? marks.delete(row.dataset.page) : marks.add(row.dataset.page)
    labels.set(row.dataset.page, row.dataset.label)
    paint()
  }
  const add = ids => { for (const id of ids ?? []) marks.add(String(id)); paint() }
  // span marks all rows from the current one to another, also those that are not in the document.
  const span = async row => add((await get('/ask', { to: row.dataset.page })).ids)
  const all = async () => add((await get('/ask')).ids)
  const clear = () => { marks.clear(); paint() }
  return { paint, toggle, add, span, all, clear, form: () => (marks.size ? { pages: [...marks].join(','), page: [...marks][0] } : {}) }
}
