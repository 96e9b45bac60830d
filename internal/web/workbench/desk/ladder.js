// The ladder: a tree grid of which the server renders one window of rows. This module moves the focus, opens branches,
// scrolls the window and drags rows; what an action does is the server's to decide.
import {
  desk,
  focusBefore,
  idle,
  isRoot,
  keepFocus,
  onRefresh,
  part,
  post,
  refresh,
  say,
  select,
  thing,
} from './desk.js'
import { marks, startMarks } from './marks.js'

export function startLadder(actions) {
  const scroller = document.querySelector('[data-ladder]')
  const grid = scroller.querySelector('[role="treegrid"]')
  const height = () =>
    parseFloat(getComputedStyle(grid).getPropertyValue('--row')) *
    parseFloat(getComputedStyle(document.documentElement).fontSize)
  const windowOf = () => grid.querySelector('.window')
  const rows = () => [...windowOf().querySelectorAll('.rung[data-id]')]
  const rowOf = page => grid.querySelector(`#row-${page}`)
  const selected = () => rowOf(desk.get(thing.key) ?? windowOf().dataset.selected)
  const marking = startMarks(grid)
  let wanting = null // what had the focus when the selected row was to get it; who has gone elsewhere meanwhile keeps it
  let kept = null // the row in the tab order, which stays in the document when it is scrolled out of the window

  let keptOf = windowOf().dataset.of // the menu that it is of

  function keepRow() {
    const here = windowOf().querySelector('.rung[tabindex="0"]')
    if (here || keptOf !== windowOf().dataset.of) kept = here // a row of another menu is no row of this one
    keptOf = windowOf().dataset.of
    if (!here && kept) {
      kept.classList.add('kept')
      kept.style.top = `${(kept.dataset.row - 1) * height()}px`
      grid.append(kept)
    }
  }
  function layout() {
    const w = windowOf()
    const h = height()
    w.style.paddingTop = `${w.dataset.from * h}px`
    grid.style.height = `${w.dataset.total * h}px`
    grid.setAttribute('aria-rowcount', w.dataset.total)
    // An answer can be older than the row one has gone to meanwhile; only where there is no such row does it say which is selected.
    const lost = !thing.rooted && !rowOf(desk.get(thing.key))
    if (w.dataset.selected && (!desk.get(thing.key) || lost)) desk.set(thing.key, w.dataset.selected)
    keepRow()
    marking.paint()
    placeTools()
    if (wanting && selected()) {
      const had = focusBefore ?? document.activeElement
      if (sameSpot(had, wanting) || had === document.body || (!had.isConnected && !had.closest('.rung')))
        selected().focus({ preventScroll: true })
      wanting = null
    }
  }
  // placeTools puts what can be done with the selected row at its end.
  function placeTools() {
    const tools = scroller.querySelector('.tools')
    const row = selected()
    tools.hidden = !row || marks.size > 0
    if (row) tools.style.top = `${row.offsetTop + (row.offsetHeight - tools.offsetHeight) / 2}px`
  }
  function reveal() {
    const row = selected()
    if (!row) return
    const top = (row.dataset.row - 1) * height()
    if (top < scroller.scrollTop || top + height() > scroller.scrollTop + scroller.clientHeight)
      scroller.scrollTop = top - scroller.clientHeight / 3
  }
  onRefresh(layout)
  layout()
  reveal()

  let loading = false
  async function fill() {
    const w = windowOf()
    const first = Math.floor(scroller.scrollTop / height())
    const last = first + Math.ceil(scroller.clientHeight / height())
    const from = Number(w.dataset.from)
    const to = from + w.children.length
    if (loading || (first >= from && (last <= to || to >= Number(w.dataset.total)))) return
    loading = true
    const content = await part(thing.path, 'rows', { from: Math.max(0, first - 20) })
    if (content && !grid.querySelector('.making')) {
      const giveBack = keepFocus()
      grid.replaceChildren(content)
      layout()
      giveBack()
    }
    loading = false
    fill()
  }
  scroller.addEventListener('scroll', fill)

  let soon
  function go(row, { focus = true } = {}) {
    if (!row) return
    for (const other of grid.querySelectorAll('[tabindex="0"]')) other.tabIndex = -1
    row.tabIndex = 0
    kept = row
    select(row.dataset.id)
    marking.paint()
    placeTools()
    if (focus) row.focus({ preventScroll: true })
    reveal()
    clearTimeout(soon)
    soon = setTimeout(() => refresh(), 120)
  }
  // goTo selects a row and gives it the focus, unless that has gone elsewhere than “had” meanwhile. What comes late selects
  // nothing.
  async function goTo(id, { focus = true, had = document.activeElement, late = false } = {}) {
    const typing = document.activeElement !== had && document.activeElement.closest('[data-part="sheet"], .making')
    if (id && !typing && !late) select(id)
    if (!late) wanting = focus ? had : null
    await refresh({ keepScroll: late && !wanting })
    reveal()
    fill()
  }
  async function toggle(row, open) {
    const had = document.activeElement
    await post(thing.open, { [thing.key]: row.dataset.id, open: open ? 'yes' : 'no' })
    wanting = had
    select(row.dataset.id)
    await refresh()
    fill()
  }
  const parentOf = row => {
    const all = rows()
    for (let i = all.indexOf(row) - 1; i >= 0; i--) if (Number(all[i].ariaLevel) < Number(row.ariaLevel)) return all[i]
    return null
  }
  const cellsOf = row => [...row.querySelectorAll('[role="gridcell"]')]

  // act does one edit on a row and goes to where it led.
  async function act(form) {
    const had = document.activeElement
    const reply = await post(thing.edit, form)
    if (!reply) {
      if ([had, document.body].includes(document.activeElement)) selected()?.focus({ preventScroll: true })
      return null
    }
    if (form[thing.many] && !['set', 'tag', 'nudge', 'position', 'window', 'dates'].includes(form.do)) marking.clear()
    if (reply.menu) desk.set('menu', reply.menu)
    await goTo(reply[thing.key], { had, late: reply.late })
    return reply
  }

  grid.addEventListener('keydown', event => {
    const cell = event.target.closest('[role="gridcell"]')
    const row = event.target.closest('.rung[data-id]')
    if (!row || event.target.closest('input')) return
    const all = rows()
    const at = all.indexOf(row)
    if (at < 0 && /^(Arrow|Page)/.test(event.key)) {
      event.preventDefault()
      goTo(row.dataset.id)
      return
    }
    const done = () => {
      event.preventDefault()
      event.stopPropagation()
    }
    if (event.altKey && { ArrowUp: 1, ArrowDown: 1, ArrowLeft: 1, ArrowRight: 1 }[event.key]) {
      done()
      const way = { ArrowUp: 'up', ArrowDown: 'down', ArrowLeft: 'out', ArrowRight: 'in' }[event.key]
      const many = marks.has(row.dataset.id) ? marking.form() : {}
      return act({ do: 'nudge', ...many, [thing.key]: row.dataset.id, way })
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return
    if (event.shiftKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      done()
      const next = all[at + (event.key === 'ArrowDown' ? 1 : -1)]
      if (!next) return
      if (!marks.size) marking.add([row.dataset.id])
      marks.has(next.dataset.id) && marks.has(row.dataset.id)
        ? marks.delete(row.dataset.id)
        : marks.add(next.dataset.id)
      go(next)
      return
    }
    if (event.key === 'Escape' && !cell?.matches(':focus') && (actions.giveUp() || marks.size)) {
      done()
      marking.clear()
      return
    }
    if (cell && cell !== event.currentTarget && document.activeElement === cell) {
      const cells = cellsOf(row)
      const i = cells.indexOf(cell)
      if (event.key === 'ArrowRight') {
        done()
        cells[Math.min(i + 1, cells.length - 1)].focus()
        return
      }
      if (event.key === 'ArrowLeft') {
        done()
        ;(i ? cells[i - 1] : row).focus()
        return
      }
      if (event.key === 'Home') {
        done()
        cells[0].focus()
        return
      }
      if (event.key === 'End') {
        done()
        cells.at(-1).focus()
        return
      }
      if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
        done()
        const next = all[at + (event.key === 'ArrowDown' ? 1 : -1)]
        if (next) {
          go(next, { focus: false })
          cellsOf(next)[i].focus()
        }
        return
      }
      if (event.key === 'Escape') {
        done()
        row.focus()
        return
      }
    }
    const page = Math.max(1, Math.floor(scroller.clientHeight / height()) - 1)
    const to = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      PageDown: Math.min(at + page, all.length - 1),
      PageUp: Math.max(at - page, 0),
    }[event.key]
    if (to !== undefined) {
      done()
      go(all[to])
      return
    }
    switch (event.key) {
      case 'Home':
        done()
        edge(0)
        return
      case 'End':
        done()
        edge(Number(windowOf().dataset.total) - 1)
        return
      case 'ArrowRight':
        done()
        if (row.ariaExpanded === 'false') toggle(row, true)
        else cellsOf(row)[0].focus()
        return
      case 'ArrowLeft':
        done()
        if (row.ariaExpanded === 'true' && !isRoot(row)) toggle(row, false)
        else go(parentOf(row))
        return
      case 'Enter':
        done()
        toSheet()
        return
      case ' ':
        done()
        marking.toggle(row)
        return
      case 'F2':
        done()
        actions.rename()
        return
      case 'Delete':
        done()
        act({ do: thing.remove, [thing.key]: row.dataset.id, ...marking.form() })
        return
      case 'ContextMenu':
      case 'F10':
        if (event.key === 'F10' && !event.shiftKey) return
        done()
        scroller.querySelector('.tools button:not([disabled])')?.focus()
        return
    }
  })
  async function edge(index) {
    const content = await part(thing.path, 'rows', { from: Math.max(0, index - 40) })
    if (!content) return
    grid.replaceChildren(content)
    layout()
    const all = rows()
    go(index === 0 ? all[0] : all.at(-1))
  }
  grid.addEventListener('click', event => {
    const jump = event.target.closest('[data-go]')
    const row = event.target.closest('.rung[data-id]')
    if (jump || !row || event.target.closest('.making')) return
    if (event.target.closest('[data-toggle]')) toggle(row, row.ariaExpanded !== 'true')
    else if (event.ctrlKey || event.metaKey) {
      if (!marks.size && desk.get(thing.key) !== row.dataset.id) marking.add([desk.get(thing.key)])
      marking.toggle(row)
    } else if (event.shiftKey) marking.span(row)
    else go(row)
  })
  grid.addEventListener('dblclick', event => {
    if (event.target.closest('.label')) actions.rename()
  })

  // gap draws where the selected row would stand at another position among its siblings, as far as that is in the window.
  function gap(position, words) {
    landing().hidden = true
    const row = selected()
    const to = Number(position)
    if (!words || !row || marks.size || to === Number(row.ariaPosInSet)) return
    const sibling = siblings(row).find(other => Number(other.ariaPosInSet) === to)
    if (!sibling) return
    sibling.scrollIntoView({ block: 'nearest' })
    pointAt(sibling, to > Number(row.ariaPosInSet) ? 'after' : 'before')
    landingWords().textContent = words
    landing().classList.remove('no')
  }
  function siblings(row) {
    const all = rows(),
      at = all.indexOf(row),
      level = Number(row.ariaLevel)
    const near = part => {
      const end = part.findIndex(other => Number(other.ariaLevel) < level)
      return end < 0 ? part : part.slice(0, end)
    }
    return [...near(all.slice(0, at).reverse()), ...near(all.slice(at + 1))].filter(
      other => Number(other.ariaLevel) === level && !('automatic' in other.dataset),
    )
  }
  scroller.addEventListener('scroll', () => {
    if (!document.body.classList.contains('dragging')) landing().hidden = true
  })

  drag({ grid, scroller, act, toggle, marking })
  return { goTo, act, selected, rows, marking, gap, focus: toLadder, layout }
  function toLadder() {
    delete document.body.dataset.pane
    placeTools()
    const row = selected() ?? (document.querySelector('.in-bin') && rows()[0])
    row?.focus()
  }
}

// sameSpot says whether two nodes are one, or stand for one row: rows are drawn anew.
const sameSpot = (a, b) =>
  a === b || (Boolean(a.closest('.rung')?.id) && a.closest('.rung').id === b.closest('.rung')?.id)

const landing = () => document.querySelector('[data-landing]')
const landingWords = () => document.querySelector('[data-landing-words]')

// toSheet goes to the sheet; where there is room for one pane, it takes the place of the ladder.
export function toSheet() {
  document.body.dataset.pane = 'sheet'
  document.querySelector('.sheet h1')?.focus()
}

// copyWords puts the label of the selected row, or the address that its sheet says, into the clipboard.
export async function copyWords(what, row) {
  await idle()
  const label = row?.dataset.label ?? ''
  const words = what === 'label' ? label : document.querySelector('[data-copy-address]')?.dataset.copyAddress
  if (!words) return
  try {
    await navigator.clipboard.writeText(words)
    say(`Copied “${words}”.`)
  } catch {
    say(`The browser lets nothing be copied here: ${words}`)
  }
}

// pointAt draws the landing line before, after or around a row.
function pointAt(row, way) {
  const line = landing(),
    box = row.getBoundingClientRect(),
    left = row.querySelector('.grip').getBoundingClientRect().left
  line.dataset.way = way
  line.style.top = `${way === 'after' ? box.bottom : box.top}px`
  line.style.left = `${left}px`
  line.style.height = way === 'into' ? `${box.height}px` : ''
  line.style.width = `${box.right - left - 8}px`
  line.hidden = false
}

// drag moves a row, by mouse or pen from anywhere in it but its controls, by touch from its rung, so that a finger scrolls:
// upper quarter before, lower quarter after, middle into; a line names the place.
function drag({ grid, scroller, act, toggle, marking }) {
  const line = landing()
  let held = null
  let aim = null
  let asked, opening, rolling

  grid.addEventListener('pointerdown', event => {
    const row = event.target.closest('.rung[data-id]')
    const control = event.target.closest('button, a, input, select, label, [data-toggle], .making')
    const byFinger = event.pointerType === 'touch' && !event.target.closest('[data-grip]')
    if (!row || control || byFinger || event.button !== 0 || event.shiftKey || event.ctrlKey || event.metaKey) return
    if (isRoot(row) || desk.get('state') === 'now' || 'automatic' in row.dataset) return
    held = {
      form: marks.has(row.dataset.id) ? marking.form() : { [thing.key]: row.dataset.id },
      id: row.dataset.id,
      x: event.clientX,
      y: event.clientY,
      moving: false,
    }
    addEventListener('pointermove', follow)
    addEventListener('pointerup', drop)
    addEventListener('keydown', give, true)
  })
  function follow(event) {
    if (!held.moving && Math.hypot(event.clientX - held.x, event.clientY - held.y) < 5) return
    if (!held.moving) addEventListener('click', swallow, { capture: true, once: true })
    held.moving = true
    document.body.classList.add('dragging')
    roll(event.clientY)
    const row = document.elementFromPoint(event.clientX, event.clientY)?.closest?.('.rung[data-id]')
    if (!row || !grid.contains(row)) return
    const box = row.getBoundingClientRect()
    const part = (event.clientY - box.top) / box.height
    const way = isRoot(row) ? 'into' : part < 0.25 ? 'before' : part > 0.75 ? 'after' : 'into'
    pointAt(row, way)
    if (aim && aim.target === row.dataset.id && aim.way === way) return
    aim = { target: row.dataset.id, way }
    landingWords().textContent = `${way} “${row.dataset.label}”`
    line.classList.remove('no')
    clearTimeout(asked)
    clearTimeout(opening)
    const mine = aim
    asked = setTimeout(async () => {
      const reply = await post(thing.attempt, { do: 'move', ...held?.form, ...mine }, true)
      if (aim !== mine || !held) return
      mine.refused = reply.error
      line.classList.toggle('no', Boolean(reply.error))
      landingWords().textContent = reply.error ?? `${reply.facts.place}. ${reply.facts.changes[0]}`
    }, 120)
    if (way === 'into' && row.ariaExpanded === 'false') opening = setTimeout(() => held && toggle(row, true), 800)
  }
  // swallow takes the click that comes when a row is let go: it was dragged, not chosen.
  function swallow(event) {
    event.stopPropagation()
    event.preventDefault()
  }
  function roll(y) {
    clearInterval(rolling)
    const box = scroller.getBoundingClientRect()
    const speed = y < box.top + 30 ? -12 : y > box.bottom - 30 ? 12 : 0
    if (speed) rolling = setInterval(() => scroller.scrollBy(0, speed), 30)
  }
  function end() {
    removeEventListener('pointermove', follow)
    removeEventListener('pointerup', drop)
    removeEventListener('keydown', give, true)
    clearTimeout(asked)
    clearTimeout(opening)
    clearInterval(rolling)
    document.body.classList.remove('dragging')
    setTimeout(() => removeEventListener('click', swallow, true)) // where no click comes
    line.hidden = true
    const was = { held, aim }
    held = aim = null
    return was
  }
  function drop() {
    const { held, aim } = end()
    if (held.moving && aim && aim.target !== held.id) act({ do: 'move', ...held.form, ...aim })
  }
  function give(event) {
    if (event.key !== 'Escape') return
    event.preventDefault()
    event.stopPropagation()
    end()
    say('It stays where it was.')
  }
}
