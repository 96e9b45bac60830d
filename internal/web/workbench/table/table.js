// The table of pages. What is typed, filled and pasted waits in this tab, checked as it comes, until all of it is taken
// into the draft as one step. What a cell may hold is the server's to say.
import { address, complain, desk, onRefresh, post, refresh, rowless, say } from '../desk/desk.js'
import { editorOf } from './celleditor.js'
import { readSheet, writeSheet } from './clipboard.js'

const keyOf = (page, column) => `${page} ${column}`

// list writes cells as the server reads them.
const list = cells => JSON.stringify(cells.map(({ page, column, was, text }) => [page, column, was, text]))

export function startTable() {
  const part = name => document.querySelector(`[data-${name}]`)
  const body = () => part('table').tBodies[0]
  const heads = () => [...part('table').tHead.rows[0].cells]
  const cellAt = (r, c) => body().rows[r]?.cells[c]
  const isOpen = cell => cell?.matches('td') && !cell.ariaReadOnly && !part('table').hasAttribute('aria-readonly')
  const places = { at: { r: 0, c: 1 }, from: { r: 0, c: 1 } } // of the focus, and from where a selection reaches to it
  let typed = new Map() // cells by page and column
  let elsewhere = [] // typed in this draft into cells that are not in this table
  const steps = [] // what stood before each change of what is typed
  let editing = null

  const storage = `table ${desk.get('draft') ?? ''}`
  function keep() {
    const all = [...elsewhere, ...typed.values()]
    if (all.length) sessionStorage.setItem(storage, JSON.stringify(all))
    else sessionStorage.removeItem(storage)
  }

  // of gives what is known of a cell: its page, its column, and what the server has there.
  function of(cell) {
    const column = heads()[cell.cellIndex].dataset.key
    const { page } = cell.parentElement.dataset
    return { key: keyOf(page, column), page: Number(page), column, stands: cell.dataset.stands ?? cell.textContent }
  }
  const textOf = cell => (cell.matches('th') ? cell.querySelector('a').textContent : cell.textContent)

  // paint writes what is typed into a cell, or what stands there.
  function paint(cell) {
    const { key, stands } = of(cell)
    const is = typed.get(key)
    if (is) cell.dataset.stands = stands
    else delete cell.dataset.stands
    cell.classList.toggle('typed', !!is)
    cell.textContent = is ? is.text : stands
  }

  // put types into cells, told as [cell, text], as one step that can be undone. Closed cells are left, and counted.
  function put(cells) {
    const step = []
    let closed = null
    let left = 0
    for (const [cell, text] of cells) {
      const { key, page, column, stands } = of(cell)
      if (!isOpen(cell)) {
        if (text !== stands) [closed, left] = [closed ?? cell, left + 1]
        continue
      }
      if (text === (typed.get(key)?.text ?? stands)) continue
      step.push([key, typed.get(key)])
      if (text === stands) typed.delete(key)
      else typed.set(key, { page, column, was: stands, text })
      paint(cell)
    }
    if (step.length) steps.push(step)
    if (left) complain({ error: `${left === 1 ? 'One cell was' : `${left} cells were`} left: ${whyClosed(closed)}` })
    keep()
    check()
  }
  const whyClosed = cell => cell.title || 'You are looking at what is public now. To edit, go to “After publishing”.'

  // back undoes the last change of what is typed; false where there is none.
  function back() {
    const step = steps.pop()
    if (!step) return false
    for (const [key, was] of step) {
      was ? typed.set(key, was) : typed.delete(key)
      const cell = find(key)
      if (cell) paint(cell)
    }
    say('What was typed last is taken back.')
    keep()
    check()
    return true
  }
  function find(key) {
    const [page, column] = key.split(' ')
    const c = heads().findIndex(head => head.dataset.key === column)
    return c > 0 && body().querySelector(`[data-page="${page}"]`)?.cells[c]
  }

  // --- what the server says of it

  let soon
  let asked = 0
  function check() {
    clearTimeout(soon)
    show()
    soon = setTimeout(ask, 250)
  }
  // sent are the cells as they will be, with what is being typed now.
  function sent() {
    const cells = new Map(typed)
    if (editing) {
      const { key, page, column, stands } = of(editing.cell)
      if (editing.value() === stands) cells.delete(key)
      else cells.set(key, { page, column, was: stands, text: editing.value() })
    }
    return [...cells.values()]
  }
  async function ask() {
    const mine = ++asked
    const cells = sent()
    if (!cells.length) return tell(null)
    const reply = await post('/table/try', { cells: list(cells) }, true)
    if (mine === asked) reply.error ? complain(reply) : tell(reply.sides)
    return undefined
  }
  function show() {
    part('typed').hidden = !typed.size && !editing
    part('take').disabled = !typed.size
    if (!typed.size) part('typed-words').textContent = ''
  }
  // tell marks the cells that are wrong, and says what all of it would change.
  function tell(said) {
    for (const cell of body().querySelectorAll('[aria-invalid]')) {
      cell.removeAttribute('aria-invalid')
      cell.removeAttribute('title')
    }
    const lines = [...(said?.faults ?? []), ...(said?.remarks ?? [])]
    for (const { page, column, sentence } of said?.faults ?? []) {
      const cell = find(keyOf(page, column))
      if (!cell) continue
      cell.setAttribute('aria-invalid', 'true')
      cell.title = sentence
    }
    part('typed-faults').replaceChildren(...lines.slice(0, 6).map(line))
    part('turn').hidden = !said?.turn
    const wrong = said?.faults?.length ?? 0
    const words = !said ? '' : `${said.words}.`
    part('typed-words').textContent = wrong
      ? `${wrong === 1 ? 'One cell is' : `${wrong} cells are`} wrong; nothing is taken until all are right.`
      : [words, ...(said?.changes ?? []).slice(0, 3)].join(' ')
    show()
  }
  function line({ page, column, sentence }) {
    const item = document.createElement('li')
    const cell = find(keyOf(page, column))
    if (!cell) {
      item.textContent = sentence
      return item
    }
    const button = document.createElement('button')
    button.type = 'button'
    button.className = 'link'
    button.textContent = `${textOf(cell.parentElement.cells[0])}, ${heads()[cell.cellIndex].textContent}: ${sentence}`
    button.addEventListener('click', () => goTo(cell))
    item.append(button)
    return item
  }

  // take has all that is typed become one step of the draft; false where it can't.
  async function take() {
    if (editing) editing.commit()
    if (!typed.size) return true
    const reply = await post('/table/edit', { cells: list([...typed.values()]) })
    if (!reply) {
      ask()
      return false
    }
    typed = new Map()
    steps.length = 0
    keep()
    await refresh()
    tell(null)
    return true
  }

  // --- the focus, and what is selected

  const wide = () => heads().length - 1
  const high = () => body().rows.length - 1
  const within = (n, most) => Math.max(0, Math.min(n, most))
  function range() {
    const { at, from } = places
    const [top, bottom] = [Math.min(at.r, from.r), Math.max(at.r, from.r)]
    const [left, right] = [Math.min(at.c, from.c), Math.max(at.c, from.c)]
    return { top, bottom, left: Math.max(left, 1), right }
  }
  let marked = []
  function mark() {
    for (const cell of marked) cell.ariaSelected = null
    marked = []
    const { top, bottom, left, right } = range()
    if (top === bottom && left === right) return
    for (let r = top; r <= bottom; r++) for (let c = left; c <= right; c++) marked.push(cellAt(r, c))
    for (const cell of marked) cell.ariaSelected = 'true'
  }
  function go(r, c, reach = false, focus = true) {
    const was = cellAt(places.at.r, places.at.c)
    if (was) was.tabIndex = -1
    places.at = { r: within(r, high()), c: within(c, wide()) }
    if (!reach) places.from = { ...places.at }
    const cell = cellAt(places.at.r, places.at.c)
    if (!cell) return
    cell.tabIndex = 0
    if (focus) {
      cell.focus()
      cell.scrollIntoView({ block: 'nearest', inline: 'nearest' })
    }
    mark()
  }
  const goTo = cell => go(cell.parentElement.sectionRowIndex, cell.cellIndex)
  const focused = () => cellAt(places.at.r, places.at.c)

  // --- typing

  function edit(cell, text = null) {
    if (!isOpen(cell)) {
      complain({ error: cell.matches('th') ? 'Its label is a column of its own.' : whyClosed(cell) })
      return
    }
    const head = heads()[cell.cellIndex]
    const was = cell.textContent
    editing = editorOf(cell, head, text, {
      heard: check,
      done(value, step) {
        editing = null
        cell.textContent = was
        if (value !== null) put([[cell, value]])
        else check()
        if (step?.take) take()
        else if (step) go(places.at.r + step.r, places.at.c + step.c)
      },
    })
    show()
  }

  function fill() {
    const { top, bottom, left, right } = range()
    if (top === bottom) {
      complain({ error: 'Select the cell with what is below it first: Shift ↓, or Ctrl Space for the whole column.' })
      return
    }
    const cells = []
    for (let c = left; c <= right; c++)
      for (let r = top + 1; r <= bottom; r++) cells.push([cellAt(r, c), textOf(cellAt(top, c))])
    put(cells)
    focused().focus()
  }

  function paste(text) {
    const { top, bottom, left, right } = range()
    let rows = readSheet(text)
    const names = heads().map(head => head.textContent)
    if (rows.length > 1 && rows[0].every((name, i) => name.trim() === names[left + i])) rows = rows.slice(1)
    if (!rows.length) return
    if (rows.length === 1 && rows[0].length === 1 && (top < bottom || left < right)) {
      const all = []
      for (let r = top; r <= bottom; r++) for (let c = left; c <= right; c++) all.push([cellAt(r, c), rows[0][0]])
      put(all)
      return
    }
    const [most, room] = [Math.max(...rows.map(row => row.length)), wide() - left + 1]
    const [down, below] = [rows.length, high() - top + 1]
    if (most > room || down > below) {
      const columns = most > room ? `${most} columns, and from here on the table has ${room}` : ''
      const pages = down > below ? `${down} rows, and from here on the table has ${below}` : ''
      const what = [columns, pages].filter(Boolean).join('; ')
      const todo = 'Nothing was changed: choose more columns or pages, or begin at another cell.'
      complain({ error: `You pasted ${what}. ${todo}` })
      return
    }
    put(rows.flatMap((row, r) => row.map((words, c) => [cellAt(top + r, left + c), words])))
    places.from = { r: top, c: left }
    go(top + down - 1, left + most - 1, true)
  }

  const page = () => Math.max(1, Math.floor(part('table').parentElement.clientHeight / 40))
  // keys of a cell that nobody types into; each gives whether it did something.
  function pressed(event) {
    const { at } = places
    const held = event.ctrlKey || event.metaKey
    const way = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
    if (way && event.altKey) {
      if (event.key !== 'ArrowDown') return false
      if (range().top === range().bottom) go(at.r + 1, at.c, true)
      fill()
    } else if (way && held)
      go(way[0] ? (way[0] < 0 ? 0 : high()) : at.r, way[1] ? (way[1] < 0 ? 0 : wide()) : at.c, event.shiftKey)
    else if (way) go(at.r + way[0], at.c + way[1], event.shiftKey)
    else if (event.key === 'Home') go(held ? 0 : at.r, 0, event.shiftKey)
    else if (event.key === 'End') go(held ? high() : at.r, wide(), event.shiftKey)
    else if (event.key === 'PageUp') go(at.r - page(), at.c, event.shiftKey)
    else if (event.key === 'PageDown') go(at.r + page(), at.c, event.shiftKey)
    else if (event.key === ' ' && held) {
      places.from = { r: 0, c: at.c }
      go(high(), at.c, true)
    } else if (event.key === 'a' && held) {
      places.from = { r: 0, c: 1 }
      go(high(), wide(), true)
    } else if (event.key === 'z' && held && !event.shiftKey) return back()
    else if (event.key === 'Escape' && marked.length) go(at.r, at.c)
    else if (event.key === 'Enter' && focused().matches('th')) focused().querySelector('a').click()
    else if (event.key === 'Enter' || event.key === 'F2') edit(focused())
    else if (event.key === 'Delete' || event.key === 'Backspace') clear()
    else if (event.key.length === 1 && !held && !event.altKey && focused().matches('td')) edit(focused(), event.key)
    else return false
    return true
  }
  function clear() {
    const { top, bottom, left, right } = range()
    const cells = []
    for (let r = top; r <= bottom; r++) for (let c = left; c <= right; c++) cells.push([cellAt(r, c), ''])
    put(cells)
  }

  const inGrid = event => !editing && event.target.closest?.('[data-table] :is(td, tbody th)')
  document.addEventListener('keydown', event => {
    if (event.key === 's' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault()
      take()
    } else if (inGrid(event) && pressed(event)) event.preventDefault()
  })
  for (const name of ['copy', 'cut', 'paste'])
    document.addEventListener(name, event => {
      if (!inGrid(event)) return
      event.preventDefault()
      if (name === 'paste') return paste(event.clipboardData.getData('text/plain'))
      const { top, bottom, left, right } = range()
      const rows = []
      for (let r = top; r <= bottom; r++) {
        rows.push([])
        for (let c = left; c <= right; c++) rows.at(-1).push(textOf(cellAt(r, c)))
      }
      event.clipboardData.setData('text/plain', writeSheet(rows))
      if (name === 'cut') clear()
      return undefined
    })

  // --- the pointer: a press goes to a cell, from there on to another selects what is between, twice types

  let dragging = false
  const pane = () => document.querySelector('.table-pane')
  pane().addEventListener('pointerdown', event => {
    const cell = event.target.closest('[data-table] :is(td, tbody th)')
    if (!cell || event.button || event.target.closest('a') || editing?.cell === cell) return
    if (editing) editing.commit()
    event.preventDefault()
    const again = cell === document.activeElement && event.pointerType !== 'mouse'
    go(cell.parentElement.sectionRowIndex, cell.cellIndex, event.shiftKey)
    dragging = event.pointerType === 'mouse'
    if (again) edit(cell)
  })
  pane().addEventListener('pointerover', event => {
    const cell = dragging && event.target.closest('[data-table] td')
    if (cell) go(cell.parentElement.sectionRowIndex, cell.cellIndex, true)
  })
  addEventListener('pointerup', () => {
    dragging = false
  })
  pane().addEventListener('dblclick', event => {
    const cell = event.target.closest('[data-table] td')
    if (cell && !editing) edit(cell)
  })
  pane().addEventListener('click', async event => {
    const hit = name => event.target.closest(`[data-${name}]`)
    if (hit('fill')) fill()
    else if (hit('take')) await take()
    else if (hit('forget')) forget()
    else if (hit('turn')) await turn()
  })
  pane().addEventListener('submit', event => {
    if (!event.target.matches('[data-columns]')) return
    event.preventDefault()
    const chosen = new FormData(event.target).getAll('col')
    if (!chosen.length) {
      complain({ error: 'A table needs a column at least.' })
      return
    }
    desk.set('cols', chosen.join(','))
    location.assign(address('/table'))
  })
  function forget() {
    const step = [...typed]
    steps.push(step)
    typed = new Map()
    for (const [key] of step) if (find(key)) paint(find(key))
    say('What was typed is forgotten. Ctrl Z in the table brings it back.')
    keep()
    check()
    tell(null)
    focused()?.focus()
  }
  async function turn() {
    const cells = [...typed.values()]
    const reply = await post('/table/turn', { cells: list(cells) })
    if (reply) put(reply.sides.map((text, i) => [find(keyOf(cells[i].page, cells[i].column)), text]))
  }

  // --- as it begins, and after each refresh

  function stand() {
    editing = null
    const all = [...elsewhere, ...typed.values()]
    typed = new Map()
    elsewhere = []
    for (const cell of all) {
      const key = keyOf(cell.page, cell.column)
      if (find(key)) typed.set(key, cell)
      else elsewhere.push(cell)
    }
    for (const key of typed.keys()) paint(find(key))
    go(places.at.r, places.at.c, false, document.activeElement === document.body)
    if (typed.size) check()
    else show()
  }
  elsewhere = JSON.parse(sessionStorage.getItem(storage) ?? '[]')
  onRefresh(stand)
  stand()
  return { ...rowless(() => focused()?.focus()), ready: take }
}
