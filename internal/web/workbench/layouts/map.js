// The map of a layout: chips in regions, which are dragged, moved by keys, or sent to a region from a dialog. What an edit does is the
// server's to decide.
import {
  complain,
  desk,
  focusBefore,
  get,
  onRefresh,
  part,
  post,
  refresh,
  say,
  select,
  thing,
  upload,
} from '../desk/desk.js'
import { startChipMarks } from './chipmarks.js'

export function startMap() {
  const map = () => document.querySelector('[data-map]')
  const chips = () => [...document.querySelectorAll('.map .chip')]
  const chipOf = id => document.querySelector(`#chip-${CSS.escape(id ?? '')}`)
  const selected = () => chipOf(desk.get('chip'))
  const marks = startChipMarks()
  let wanting = null

  function layout() {
    const here = selected()
    if (!here) (chips()[0] ?? document.querySelector('.tray .chip'))?.setAttribute('tabindex', '0')
    if (wanting && here) {
      const had = focusBefore ?? document.activeElement
      if (had === wanting || had === document.body || had.closest('.chip')) here.focus({ preventScroll: true })
    }
    wanting = null
    paintCounts()
  }
  let counted = {}
  function paintCounts() {
    for (const at of document.querySelectorAll('[data-count]')) at.textContent = counted[at.dataset.count] ?? '…'
  }
  async function count() {
    const found = await get('/layouts/counts')
    if (!found.error) {
      counted = found
      paintCounts()
    }
  }
  let soon
  onRefresh(() => {
    layout()
    clearTimeout(soon)
    soon = setTimeout(count, 250)
  })
  layout()
  count()

  async function goTo(id, { focus = true } = {}) {
    if (id) select(id)
    wanting = focus ? document.activeElement : null
    await refresh()
  }
  async function act(form) {
    const reply = await post(thing.edit, { layout: map()?.dataset.layout ?? '', ...form })
    if (!reply) {
      selected()?.focus({ preventScroll: true })
      return null
    }
    if (form.chips && !['set', 'dates'].includes(form.do)) marks.clear()
    if (reply.chip) select(reply.chip)
    else if (!form.chips) {
      desk.delete('chip')
      history.replaceState(null, '', `${location.pathname}?${desk}`)
    }
    await goTo(reply.chip || desk.get('chip'))
    return reply
  }
  const chosen = () => ({ chip: desk.get('chip') ?? '' })
  const ladder = {
    goTo,
    act,
    selected,
    focus: () => selected()?.focus(),
    marking: marks,
    layout,
  }

  document.addEventListener('click', event => {
    const chip = event.target.closest('[data-chip]')
    if (chip?.matches('.map .chip') && (event.ctrlKey || event.metaKey)) marks.toggle(chip)
    else if (chip) {
      marks.clear()
      goTo(chip.dataset.chip)
    }
    const set = event.target.closest('[data-mode], [data-narrow], .layout-tabs a')
    if (set) {
      event.preventDefault()
      if (set.dataset.mode) desk.set('mode', set.dataset.mode)
      if (set.dataset.narrow !== undefined) set.dataset.narrow ? desk.set('narrow', 'yes') : desk.delete('narrow')
      if (set.dataset.layout) {
        desk.set('layout', set.dataset.layout)
        desk.set('mode', 'all')
      }
      history.replaceState(null, '', `${location.pathname}?${desk}`)
      const again = set.dataset.mode
        ? `[data-mode="${set.dataset.mode}"]`
        : set.dataset.layout
          ? `.layout-tabs [data-layout="${set.dataset.layout}"]`
          : `[data-narrow="${set.dataset.narrow}"]`
      refresh().then(() => document.querySelector(again)?.focus())
    }
    const drop = event.target.closest('[data-drop][data-item]')
    if (drop) act({ do: 'drop', ...chosen(), field: drop.dataset.drop, item: drop.dataset.item })
    const cover = event.target.closest('[data-cover]')
    if (cover)
      part('/layouts/cover', 'cover', { of: cover.dataset.cover }).then(
        list => list && document.querySelector('[data-cover-list]').replaceChildren(list),
      )
  })
  // Blocks that are not looked for stand back.
  function look() {
    const words = document.querySelector('[data-chip-words]').value.trim().toLowerCase()
    const kind = document.querySelector('[data-chip-kind]').value
    const all = [...document.querySelectorAll('.chip')]
    let found = 0
    for (const chip of all) {
      const nowhere = chip.matches('.ghost, .tray .chip') || /^0 /.test(chip.querySelector('[data-count]')?.textContent)
      const kinds = [...chip.dataset.kinds.split(' '), nowhere ? 'is:hidden' : '']
      const fits = chip.textContent.toLowerCase().includes(words) && (!kind || kinds.includes(kind))
      chip.classList.toggle('back', !fits)
      found += fits
    }
    document.querySelector('[data-chip-found]').textContent = words || kind ? `${found} of ${all.length}` : ''
  }
  document.addEventListener('input', event => {
    if (event.target.matches('[data-chip-words], [data-chip-kind]')) look()
  })
  onRefresh(look)
  document.addEventListener('change', event => {
    const input = event.target
    if (input.dataset.kind)
      act({ do: input.checked ? 'add' : 'drop', ...chosen(), field: input.dataset.kind, item: input.value })
  })

  // step goes to another chip; with several selected the sheet stays theirs.
  function step(chip) {
    if (!('many' in document.body.dataset)) {
      goTo(chip.dataset.chip)
      return
    }
    select(chip.dataset.chip)
    chip.focus()
  }
  document.addEventListener('keydown', event => {
    const chip = event.target.closest('.chip')
    if (!chip || event.ctrlKey || event.metaKey) return
    const done = () => {
      event.preventDefault()
      event.stopPropagation()
    }
    if (event.key === ' ' && chip.matches('.map .chip')) {
      done()
      marks.toggle(chip)
      return
    }
    if (event.key === 'Escape' && marks.clear()) {
      done()
      return
    }
    const list = [...chip.closest('.chips').querySelectorAll('.chip')]
    const at = list.indexOf(chip)
    const way = { ArrowUp: 'up', ArrowDown: 'down', ArrowLeft: 'left', ArrowRight: 'right' }[event.key]
    if (event.altKey && way) {
      done()
      act({ do: 'nudge', chip: chip.dataset.chip, way })
      return
    }
    if (event.altKey) return
    if (way === 'up' || way === 'down') {
      done()
      const all = chips()
      const next = list[at + (way === 'down' ? 1 : -1)] ?? all[all.indexOf(chip) + (way === 'down' ? 1 : -1)]
      if (next) step(next)
      return
    }
    if (way) {
      done()
      const areas = [...document.querySelectorAll('.map-area, .tray')].filter(area => area.querySelector('.chip'))
      const area = areas[areas.indexOf(chip.closest('.map-area, .tray')) + (way === 'right' ? 1 : -1)]
      if (area) step(area.querySelector('.chip'))
      return
    }
    if (event.key === 'Enter') {
      done()
      document.querySelector('.sheet h1')?.focus()
    }
    if (event.key === 'Delete') {
      done()
      takeOut()
    }
  })
  document.querySelector('.pane-sheet').addEventListener('keydown', event => {
    if (event.key === 'Escape' && !event.defaultPrevented) ladder.focus()
  })
  const takeOut = () =>
    act({
      do: 'take',
      ...chosen(),
      ...marks.form(),
      block: document.querySelector('[data-sheet]')?.dataset.block ?? '',
    })

  // placing: where a block goes is chosen by region, with a picture of each layout, and its position there.
  function asking(dialog, asked) {
    const form = dialog.querySelector('form')
    const facts = dialog.querySelector('[data-place-facts]')
    let soon
    const paint = () => {
      for (const box of dialog.querySelectorAll('[data-region]'))
        box.setAttribute('aria-pressed', String(box.dataset.region === form.elements.region?.value))
      clearTimeout(soon)
      soon = setTimeout(async () => {
        const ask = asked()
        if (!ask) {
          facts.textContent = ''
          return
        }
        const reply = await post(thing.attempt, ask, true)
        facts.textContent =
          reply.error ?? [reply.facts.place, reply.facts.menu, reply.facts.changes[0]].filter(Boolean).join('. ')
      }, 150)
    }
    form.addEventListener('input', paint)
    dialog.addEventListener('click', event => {
      const region = event.target.closest('[data-region]')
      if (region) {
        form.elements.region.value = region.dataset.region
        paint()
      }
    })
    form.addEventListener('submit', async event => {
      event.preventDefault()
      const reply = await post(thing.edit, asked(), true)
      if (reply.error) {
        facts.textContent = reply.error
        return
      }
      dialog.close()
      say(reply.said)
      await goTo(reply.chip)
    })
    return {
      form,
      open: () => {
        form.reset()
        paint()
        dialog.showModal()
      },
    }
  }
  const placeDialog = document.querySelector('[data-place-dialog]')
  let placing = '' // a block of the tray or found by words; else the selected place moves
  const place = asking(placeDialog, () => {
    const fields = Object.fromEntries(new FormData(place.form))
    if (!fields.region) return null
    if (placing) return { do: 'place', chip: placing, ...fields }
    return { do: 'move', ...chosen(), target: '', region: fields.region, position: fields.position }
  })
  function placeChip(block) {
    const id = block ?? desk.get('chip') ?? ''
    if (!/^[pb]/.test(id)) {
      complain({ error: 'Choose a block first.' })
      return
    }
    placing = id.startsWith('b') ? id : ''
    placeDialog.querySelector('[data-only]').hidden = !placing
    document.getElementById('place-title').textContent = placing ? 'Put it into a region' : 'Move it to a region'
    place.open()
    place.form.elements.region.focus()
  }
  const newDialog = document.querySelector('[data-new-block]')
  const made = asking(newDialog, () => ({
    do: 'make',
    ...Object.fromEntries([...new FormData(made.form)].filter(([, value]) => typeof value === 'string')),
  }))
  const sorts = () => {
    for (const box of newDialog.querySelectorAll('[data-for]'))
      box.hidden = box.dataset.for !== made.form.elements.sort.value
  }
  made.form.addEventListener('input', sorts)
  newDialog.addEventListener('change', async event => {
    if (!event.target.matches('[data-upload]')) return
    const hit = await upload(event.target.files[0])
    if (!hit) return
    made.form.elements.file.value = hit.key
    newDialog.querySelector('[data-file]').textContent = hit.label
  })
  const notice = asking(document.querySelector('[data-notice-dialog]'), () => {
    const { words, until } = notice.form.elements
    return words.value.trim() ? { do: 'notice', words: words.value, until: until.value } : null
  })
  const patterns = document.querySelector('[data-pattern-dialog]')
  let patternFor = 'where'
  const pattern = asking(patterns, () => {
    const typed = pattern.form.elements.pattern.value.trim()
    return typed ? { do: 'add', ...chosen(), field: patternFor, item: `pattern:${typed}` } : null
  })
  document.addEventListener('click', event => {
    const typed = event.target.closest('[data-pattern]')
    if (typed) {
      patternFor = typed.dataset.pattern
      pattern.open()
    }
  })

  document.addEventListener('submit', event => {
    const form = event.target.closest('[data-set-form]')
    if (!form) return
    event.preventDefault()
    act({ do: form.dataset.setForm, ...chosen(), name: form.elements.name.value })
  })
  document.addEventListener('click', event => {
    if (event.target.closest('[data-set-take]')) act({ do: 'take-set', ...chosen() })
  })

  drag({ act, chosen: id => ({ chip: id }), goTo })
  return {
    ladder,
    chosen,
    placeChip,
    takeOut,
    marks,
    newNotice: () => {
      notice.open()
      notice.form.elements.words.focus()
    },
    newBlock: () => {
      made.open()
      sorts()
      made.form.elements.sort.focus()
    },
  }
}

// drag takes a chip by its grip: upper half of another before it, lower half after, an empty part of a region last in it.
function drag({ act }) {
  const landing = document.querySelector('[data-landing]')
  let held = null
  let aim = null
  let asked
  document.addEventListener('pointerdown', event => {
    const grip = event.target.closest('[data-grip]')
    if (!grip || event.button !== 0 || desk.get('state') === 'now') return
    event.preventDefault()
    held = { id: grip.closest('.chip').dataset.chip, x: event.clientX, y: event.clientY, moving: false }
    addEventListener('pointermove', follow)
    addEventListener('pointerup', drop)
    addEventListener('keydown', give, true)
  })
  const form = at =>
    held?.id.startsWith('b')
      ? { do: 'place', chip: held.id, region: at.region, position: at.position }
      : { do: 'move', chip: held?.id, ...at }
  function follow(event) {
    if (!held.moving && Math.hypot(event.clientX - held.x, event.clientY - held.y) < 5) return
    held.moving = true
    document.body.classList.add('dragging')
    const under = document.elementFromPoint(event.clientX, event.clientY)
    const area = under?.closest?.('.map-area:not(.content)')
    const scroller = document.querySelector('.map-scroll')
    const edge = scroller.getBoundingClientRect()
    if (event.clientY < edge.top + 24) scroller.scrollBy(0, -10)
    if (event.clientY > edge.bottom - 24) scroller.scrollBy(0, 10)
    if (!area) {
      aim = null
      landing.hidden = true
      return
    }
    const chip = under.closest('.chip')
    const all = [...area.querySelectorAll('.chip')]
    const box = (chip ?? all.at(-1) ?? area).getBoundingClientRect()
    const before = chip ? event.clientY < box.top + box.height / 2 : false
    const found = chip ?? all.at(-1)
    const at = {
      region: area.dataset.region,
      target: found?.dataset.chip ?? '',
      way: before ? 'before' : 'after',
      position: found ? String(all.indexOf(found) + (before ? 1 : 2)) : '',
    }
    Object.assign(landing.style, {
      top: `${before ? box.top - 3 : box.bottom}px`,
      left: `${box.left}px`,
      width: `${box.width}px`,
    })
    landing.hidden = false
    if (aim && aim.target === at.target && aim.way === at.way && aim.region === at.region) return
    aim = at
    landing.textContent = `${found ? `${at.way} “${found.dataset.label}”` : 'alone'} in ${area.querySelector('h2').textContent}`
    landing.classList.remove('no')
    clearTimeout(asked)
    asked = setTimeout(async () => {
      const reply = await post(thing.attempt, form(at), true)
      if (aim !== at || !held) return
      landing.classList.toggle('no', Boolean(reply.error))
      landing.textContent = reply.error ?? `${reply.facts.place}. ${reply.facts.changes[0] ?? ''}`
    }, 120)
  }
  function end() {
    removeEventListener('pointermove', follow)
    removeEventListener('pointerup', drop)
    removeEventListener('keydown', give, true)
    clearTimeout(asked)
    document.body.classList.remove('dragging')
    landing.hidden = true
  }
  function drop() {
    end()
    if (held.moving && aim && aim.target !== held.id) act(form(aim))
    held = aim = null
  }
  function give(event) {
    if (event.key !== 'Escape') return
    event.preventDefault()
    event.stopPropagation()
    end()
    held = aim = null
    say('The block stays where it was.')
  }
}
