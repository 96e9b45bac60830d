// The menus area: making items in the ladder, choosing targets, the sentence and bracket of a block's window, colours of badges, and
// the tabs of what visitors get.
import { desk, inTurn, once, onRefresh, post, refresh, say, select, upload } from '../desk/desk.js'
import { landsAt, putRow } from '../desk/making.js'
import { startChoose } from './choose.js'

export function startMenus(ladder, dialogs) {
  const sheet = () => document.querySelector('[data-sheet]')
  const field = (form, quiet) => post('/menus/edit', { do: 'field', item: sheet().dataset.sheet, ...form }, quiet)
  async function settle(reply) {
    if (!reply) return
    await refresh()
  }

  // Menus and blocks are chosen in place, so that what is carried stays in hand.
  document.addEventListener('click', async event => {
    const tab = event.target.closest('.menu-tabs a, .menu-blocks a')
    if (!tab || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    document.querySelector('.making')?.remove()
    if (!tab.dataset.block) ladder.marking.clear()
    const to = new URL(tab.href).searchParams
    for (const name of ['menu', 'block', 'item']) to.get(name) ? desk.set(name, to.get(name)) : desk.delete(name)
    await refresh({ keepScroll: false })
    select(desk.get('item') ?? '')
    for (const list of document.querySelectorAll('[data-menu-choose]')) list.open = false
    document.querySelector(tab.dataset.block ? '.menu-blocks [aria-current]' : '.menu-tabs [aria-current]')?.focus()
  })

  startChoose()
  windows(settle)
  tabs()
  badges(field, settle)
  const make = making(ladder)
  const open = newMenus(settle)

  const currentShows = () => document.querySelector('[data-fields] [name="shows"]').value
  function chooseTarget() {
    const label = document.querySelector('[data-fields] [name="label"]')
    const old = currentShows()
    dialogs.pick({
      title: 'Where should it lead?',
      verb: 'Lead there',
      sorts: 'page file web link',
      take: async hit =>
        settle(
          await field({
            field: 'shows',
            old,
            new: hit.key,
            label:
              /^(page|branch):/.test(hit.key) || label.value ? '' : document.getElementById('sheet-title').textContent,
          }),
        ),
    })
  }
  document.addEventListener('change', async event => {
    const input = event.target
    const grows = input.closest('[data-grow]')
    if (grows) {
      const fields = [...grows.elements].filter(e => e.type !== 'checkbox' || e.checked)
      settle(
        await post('/menus/edit', {
          do: 'grow',
          item: sheet().dataset.sheet,
          old: currentShows(),
          ...Object.fromEntries(fields.map(e => [e.dataset.grows, e.value])),
        }),
      )
    }
    if (input.matches('[data-line-set]')) settle(await setLine(input, input.value))
    if (input.closest('[data-page-fields]')) {
      settle(
        await post('/edit', {
          do: 'field',
          page: input.closest('[data-page-fields]').dataset.pageFields,
          field: input.name,
          old: input.dataset.old,
          new: input.value,
        }),
      )
    }
    if (input.closest('[data-menu-fields]')) {
      const reply = await post('/menus/edit', {
        do: 'menu-field',
        menu: desk.get('menu') ?? '',
        field: input.name,
        old: input.dataset.old,
        new: input.value,
      })
      if (reply) {
        input.dataset.old = input.value
        refresh()
      }
    }
  })
  document.addEventListener('submit', event => {
    if (event.target.matches('[data-page-fields], [data-menu-fields], [data-as-seen], [data-line-form]'))
      event.preventDefault()
  })
  const setLine = (control, value) => {
    const line = control.closest('[data-line]').dataset
    return post('/menus/edit', {
      do: 'line',
      item: line.line,
      field: control.dataset.lineSet,
      old: line.old,
      new: value,
    })
  }
  document.addEventListener('click', async event => {
    const line = event.target.closest('button[data-line-set]')
    if (line) settle(await setLine(line, line.dataset.new ?? ''))
    const set = event.target.closest('[data-page-set]')
    if (set)
      settle(
        await post('/edit', {
          do: 'field',
          page: set.dataset.page,
          field: set.dataset.pageSet,
          old: set.dataset.old,
          new: set.dataset.new,
        }),
      )
    const pin = event.target.closest('[data-pin]')
    if (pin) ladder.act({ do: 'put', shows: `page:${pin.dataset.pin}`, target: pin.dataset.beside, way: 'before' })
    const menu = event.target.closest('[data-menu-do]')
    if (menu) {
      const reply = await post('/menus/edit', { do: menu.dataset.menuDo })
      if (!reply) return
      menu.closest('dialog').close()
      reply.menu ? desk.set('menu', reply.menu) : desk.delete('menu')
      desk.delete('item')
      desk.delete('block')
      location.search = desk
    }
  })
  const asSeen = () =>
    dialogs.pick({
      title: 'See the menu on which page?',
      verb: 'Look there',
      take: async hit => {
        desk.set('page', hit.id)
        history.replaceState(null, '', `${location.pathname}?${desk}`)
        await refresh()
      },
    })
  return {
    'choose-target': chooseTarget,
    'as-seen': asSeen,
    lead: () =>
      dialogs.pick({
        title: 'Where should all that leads there lead, in every menu?',
        verb: 'Lead there',
        sorts: 'page file web link',
        landing: hit => ({ do: 'lead', new: hit.key, ...ladder.marking.form() }),
        take: hit => ladder.act({ do: 'lead', new: hit.key, ...ladder.marking.form() }),
      }),
    'make-before': () => make('before'),
    'make-after': () => make('after'),
    'make-into': () => make('into'),
    'new-menu': () => open(false),
    'place-menu': () => open(true),
    'menu-settings': () => document.querySelector('[data-menu-settings]').showModal(),
  }
}

// making opens a row at the gap, in sight of its neighbours, in which a target is found and the place is said.
function making(ladder) {
  const pattern = document.querySelector('[data-making-item]')
  return way => {
    document.querySelector('.making')?.remove()
    const row = ladder.selected()
    const holder = pattern.content.firstElementChild.cloneNode(true)
    putRow(holder, row, way)
    holder.querySelector('[data-where]').textContent = row ? landsAt(row, way) : 'The first item of this menu.'
    const form = holder.querySelector('form')
    const facts = form.querySelector('[data-facts]')
    const { label, inside } = form.elements
    let hit = null
    const asked = () => {
      const [sort, rest] = [hit?.key.split(':')[0], hit?.key.slice(hit.key.indexOf(':') + 1)]
      return {
        do: 'put',
        target: row?.dataset.id ?? '',
        way,
        label: label.value,
        shows: sort === 'page' && inside.checked ? `branch:${rest}:0:not` : (hit?.key ?? ''),
      }
    }
    let soon
    const ask = () => {
      clearTimeout(soon)
      soon = setTimeout(async () => {
        if (!hit) return
        const reply = await post('/menus/try', asked(), true)
        facts.textContent = reply.error ?? `${hit.label}: ${reply.facts.place}. ${reply.facts.changes[0] ?? ''}`
        facts.classList.toggle('fault', Boolean(reply.error))
      }, 120)
    }
    const need = () => {
      if (!/^(page|branch)/.test(hit.key) && !label.value) label.value = hit.label
    }
    holder.addEventListener('combo:mark', event => {
      hit = event.detail
      inside.disabled = !hit.key.startsWith('page:')
      ask()
    })
    holder.addEventListener('combo:none', () => {
      hit = null
      facts.textContent = ''
    })
    const taken = event => {
      hit = event.detail
      need()
      form.querySelector('[role="combobox"]').value = hit.label
      holder.querySelector('.combo').combo.hits = []
      label.focus()
      label.select()
      ask()
    }
    holder.addEventListener('combo:take', taken)
    holder.addEventListener('combo:press', taken)
    form.addEventListener('input', ask)
    const close = () => {
      holder.remove()
      ladder.focus()
    }
    form.addEventListener('keydown', event => {
      event.stopPropagation()
      if (event.key === 'Escape') close()
    })
    form.querySelector('[data-cancel]').addEventListener('click', close)
    form.querySelector('[data-upload]').addEventListener('change', async event => {
      const kept = await upload(event.target.files[0])
      if (kept) holder.querySelector('.combo').combo.put(kept)
    })
    form.addEventListener('submit', async event => {
      event.preventDefault()
      if (!hit) {
        facts.textContent = 'Choose first where the item should lead.'
        return
      }
      need()
      const reply = await once(form, () => post('/menus/edit', asked()))
      if (!reply) return
      holder.remove()
      await ladder.goTo(reply.item, { late: reply.late })
    })
    // The box is Alpine's, which wakes it in its own time.
    setTimeout(() => form.querySelector('[role="combobox"]').focus(), 30)
    holder.scrollIntoView({ block: 'nearest' })
  }
}

// windows keeps the bracket, the sentence and the block together: whichever is changed, the others follow.
function windows(settle) {
  const form = () => document.querySelector('[data-window-sentence]')
  const asked = () => ({
    do: 'window',
    block: form().dataset.windowSentence,
    ...Object.fromEntries(new FormData(form())),
  })
  let soon
  document.addEventListener('input', event => {
    if (!event.target.closest('[data-window-sentence]')) return
    const { levels, first, from } = form().elements
    const low = form().querySelector('[data-bracket-low]')
    const high = form().querySelector('[data-bracket-high]')
    if (event.target === low || event.target === high) {
      if (Number(low.value) > Number(high.value)) (event.target === low ? high : low).value = event.target.value
      first.value = low.value
      levels.value = String(high.value - low.value + 1)
    } else {
      low.value = first.value
      high.value = levels.value === '0' ? high.max : String(Number(first.value) + Number(levels.value) - 1)
    }
    form().querySelector('[data-entry]').hidden = from.value !== 'entry'
    form()
      .querySelectorAll('.heads i')
      .forEach((head, i) =>
        head.classList.toggle(
          'in',
          i + 1 >= Number(low.value) && i + 1 <= Number(high.value) && from.value !== 'entry',
        ),
      )
    clearTimeout(soon)
    soon = setTimeout(async () => {
      const reply = await post('/menus/try', asked(), true)
      const facts = form()?.querySelector('[data-window-sentence-facts]')
      if (facts) facts.textContent = reply.error ?? `${reply.facts.place}. ${reply.facts.changes[0] ?? ''}`
    }, 150)
  })
  document.addEventListener('change', async event => {
    if (!event.target.closest('[data-window-sentence]')) return
    clearTimeout(soon)
    const reply = await post('/menus/edit', asked())
    reply ? settle(reply) : refresh()
  })
  document.addEventListener('submit', event => {
    if (event.target.matches('[data-window-sentence]')) event.preventDefault()
  })
}

// tabs stay where they were when the screen comes up to date.
function tabs() {
  let open = 'tab-result'
  let differences = false
  function show(focus) {
    for (const tab of document.querySelectorAll('.pane-gets [role="tab"]')) {
      const on = tab.id === open
      tab.setAttribute('aria-selected', String(on))
      tab.tabIndex = on ? 0 : -1
      document.getElementById(tab.getAttribute('aria-controls')).hidden = !on
      if (on && focus) tab.focus()
    }
    const box = document.querySelector('[data-differences]')
    if (box) box.checked = differences
    document.querySelector('.matrix')?.classList.toggle('only', differences)
  }
  onRefresh(() => show(false))
  document.addEventListener('click', event => {
    const tab = event.target.closest('.pane-gets [role="tab"]')
    if (tab) {
      open = tab.id
      show(true)
    }
  })
  document.addEventListener('keydown', event => {
    const tab = event.target.closest('.pane-gets [role="tab"]')
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
    if (!tab || !step) return
    event.preventDefault()
    const all = [...document.querySelectorAll('.pane-gets [role="tab"]')]
    open = all[(all.indexOf(tab) + step + all.length) % all.length].id
    show(true)
  })
  document.addEventListener('change', event => {
    if (event.target.matches('[data-differences]')) {
      differences = event.target.checked
      show(false)
    }
  })
}

// badges: a pair of the theme, or a free one, whose contrast the server tells while it is chosen.
function badges(field, settle) {
  const box = () => document.querySelector('[data-pairs]')
  const value = () => box().querySelector('[name="badge_pair"]')
  const free = () =>
    `${box().querySelector('[data-colour="text"]').value} on ${box().querySelector('[data-colour="back"]').value}`
  const save = async pair => settle(await field({ field: 'badge_pair', old: value().dataset.old, new: pair }))
  document.addEventListener('click', event => {
    const pair = event.target.closest('[data-pair]')
    if (pair) inTurn(() => save(pair.dataset.pair))
    if (event.target.closest('[data-free]')) inTurn(() => save(free()))
  })
  let soon
  document.addEventListener('input', event => {
    if (!event.target.matches('[data-colour]')) return
    event.stopPropagation()
    clearTimeout(soon)
    soon = setTimeout(async () => {
      const item = document.querySelector('[data-sheet]').dataset.sheet
      const reply = await post(
        '/menus/try',
        { do: 'field', item, field: 'badge_pair', old: value().dataset.old, new: free() },
        true,
      )
      const out = box().querySelector('[data-ratio]')
      out.textContent = reply.error ?? reply.facts.place
      out.classList.toggle('fault', Boolean(reply.error))
    }, 120)
  })
}

// newMenus makes a menu, and puts it or one that is there into a region in the same form.
function newMenus(settle) {
  const dialog = document.querySelector('[data-new-menu]')
  const form = dialog.querySelector('form')
  const facts = dialog.querySelector('[data-new-menu-facts]')
  let placing = false
  const open = place => {
    placing = place
    form.reset()
    paint()
    facts.textContent = ''
    dialog.querySelector('[data-new-menu-title]').textContent = place ? 'Put this menu into a region' : 'A new menu'
    dialog.querySelector('[data-verb]').textContent = place ? 'Put it there' : 'Make it'
    dialog.querySelector('[data-name-field]').hidden = place
    form.elements.name.required = !place
    dialog.showModal()
    ;(place ? form.elements.region : form.elements.name).focus()
  }
  const paint = () => {
    for (const box of dialog.querySelectorAll('[data-region]'))
      box.setAttribute('aria-pressed', String(box.dataset.region === form.elements.region.value))
  }
  const asked = () => ({
    ...Object.fromEntries(new FormData(form)),
    do: placing ? 'place' : 'make-menu',
    from: 'trail',
  })
  let soon
  async function ask() {
    clearTimeout(soon)
    soon = setTimeout(async () => {
      if (!form.elements.region.value || (!placing && !form.elements.name.value)) {
        facts.textContent = placing ? '' : 'Without a region the menu is made and shows nowhere yet.'
        return
      }
      const reply = await post('/menus/try', asked(), true)
      facts.textContent = reply.error ?? `${reply.facts.place}. ${reply.facts.changes[0] ?? ''}`
    }, 150)
  }
  form.addEventListener('input', () => {
    paint()
    ask()
  })
  dialog.addEventListener('click', event => {
    const region = event.target.closest('[data-region]')
    if (!region) return
    form.elements.region.value = region.dataset.region
    paint()
    ask()
  })
  form.addEventListener('submit', async event => {
    event.preventDefault()
    const reply = await once(form, () => post('/menus/edit', asked(), true))
    if (!reply) return
    if (reply.error) {
      facts.textContent = reply.error
      return
    }
    dialog.close()
    if (reply.menu) desk.set('menu', reply.menu)
    if (!placing) desk.delete('item')
    desk.delete('block')
    say(reply.said)
    await settle(reply)
  })
  return open
}
