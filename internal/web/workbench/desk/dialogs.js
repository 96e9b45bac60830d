// Dialogs: the picker (to find, to move, and to choose a target), the review before publishing, and the preview.
import {
  address,
  complain,
  desk,
  enter,
  get,
  isRoot,
  part,
  post,
  refresh,
  say,
  thing,
  upload,
  ofPages,
} from './desk.js'
import { flush, leave } from './sheet.js'
import { fitFrame } from './fit.js'
import { startSides } from './sides.js'

let opened = null // how the picker was opened: { title, verb, moving, sorts, source, take }

export function startDialogs(ladder) {
  const picker = document.querySelector('[data-picker]')
  const review = document.querySelector('[data-review]')
  const preview = document.querySelector('[data-preview]')
  const combo = () => picker.querySelector('.combo').combo
  const facts = picker.querySelector('[data-picker-facts]')
  const ways = picker.querySelector('.ways')
  let way = 'into'
  let marked = null

  const landing = () =>
    opened.landing?.(marked, way) ?? {
      do: 'move',
      [thing.key]: desk.get(thing.key),
      ...ladder.marking.form(),
      ...opened.at(marked, way),
    }
  async function ask() {
    for (const button of ways.querySelectorAll('[data-way]'))
      button.setAttribute('aria-pressed', String(button.dataset.way === way))
    if (!(opened.moving || opened.landing) || !marked) {
      facts.textContent = marked?.fault ?? ''
      return
    }
    const reply = await post(thing.attempt, landing(), true)
    facts.textContent =
      reply.error ??
      [reply.facts.place, reply.facts.address, opened.landing && reply.facts.menu, reply.facts.changes.join(' ')]
        .filter(Boolean)
        .join(' · ')
  }
  picker.addEventListener('combo:mark', event => {
    marked = event.detail
    if (opened.ofTopics) ways.querySelector(`[data-way="${opened.ofTopics}"]`).hidden = !marked.topic
    ask()
  })
  picker.addEventListener('combo:none', () => {
    marked = null
    facts.textContent = ''
  })
  picker.addEventListener('combo:press', () => {
    if (!opened.moving) take()
  })
  picker.addEventListener('combo:take', take)
  ways.addEventListener('click', event => {
    const button = event.target.closest('[data-way]')
    if (button) {
      way = button.dataset.way
      ask()
    }
  })
  picker.querySelector('[data-verb]').addEventListener('click', take)
  function take() {
    if (!marked || marked.fault) return
    picker.close()
    opened.take(marked, way)
  }
  function pick(how) {
    opened = how
    marked = null
    way = 'into'
    picker.querySelector('h2').textContent = how.title
    picker.querySelector('[data-verb]').textContent = how.verb
    ways.hidden = !how.moving
    const takes = picker.querySelector('[data-takes-line]')
    if (takes) {
      takes.hidden = !how.admits
      takes.querySelector('input').checked = false
    }
    const words = how.ways ?? { before: 'Before it', into: 'Inside it', after: 'After it' }
    for (const button of ways.querySelectorAll('[data-way]')) {
      button.hidden = !words[button.dataset.way]
      button.textContent = words[button.dataset.way] ?? ''
    }
    picker.querySelector('[data-upload-line]').hidden = !(how.sorts ?? '').includes('file')
    facts.textContent = ''
    picker.showModal()
    combo().reset({ sorts: how.sorts ?? '', source: how.source })
    picker.querySelector('[role="combobox"]').focus()
    ask()
  }
  picker.addEventListener('change', async event => {
    if (event.target.matches('[data-takes]')) ask()
    if (!event.target.matches('[data-upload]') || !event.target.files.length) return
    const hit = await upload(event.target.files[0])
    event.target.value = ''
    if (hit) combo().put(hit)
  })
  for (const dialog of document.querySelectorAll('dialog')) {
    dialog.addEventListener('click', event => {
      if (event.target.closest('[data-close]')) dialog.close()
    })
    dialog.addEventListener('close', () => {
      if (!document.querySelector('dialog[open]')) ladder.focus()
    })
  }

  async function openReview() {
    if (!(await leave())) return
    const content = await part('/review', 'review')
    if (!content) return
    review.replaceChildren(content)
    if (!review.open) review.showModal()
    review.querySelector('.primary:not([disabled])')?.focus()
  }
  const openSides = startSides()
  review.addEventListener('click', async event => {
    if (event.target.closest('[data-open-sides]')) openSides()
    const without = event.target.closest('[data-without]')
    if (without && (await post('/drafts/without', { page: without.dataset.without }))) {
      await refresh()
      openReview()
    }
    const held = event.target.closest('[data-held]')
    if (!held) return
    const version = review.querySelector('[name="version"]').value
    if (await post('/held', { held: held.dataset.held, keep: held.dataset.keep, version })) {
      await refresh()
      openReview()
    }
  })
  review.addEventListener('click', event => {
    const about = event.target.closest('[data-remark]')
    if (!about) return
    const form = document.createElement('form')
    form.dataset.approval = 'remark'
    form.innerHTML =
      '<input type="hidden" name="step"><input name="words" maxlength="2000" aria-label="What you say of this edit"> ' +
      '<button>Say it</button>'
    form.elements.step.value = about.dataset.remark
    document.querySelector('[data-approval="remark"]')?.remove()
    review.querySelector('form[data-publish]').after(form)
    form.elements.words.focus()
  })
  review.addEventListener('submit', async event => {
    event.preventDefault()
    const answering = event.target.dataset.approval
    if (answering) {
      const done = await post(`/approval/${answering}`, Object.fromEntries(new FormData(event.target)))
      if (!done) return
      say(done.said)
      await refresh()
      openReview()
      return
    }
    const form = new FormData(event.target)
    const button = event.target.querySelector('.primary')
    button.disabled = true
    const reply = await post('/publish', Object.fromEntries(form), true)
    if (reply.error) {
      review.close()
      complain(reply)
      await refresh()
      return
    }
    review.close()
    if (reply.draft) enter(reply.draft)
    await refresh()
    sayPublished(reply)
  })
  function sayPublished(reply) {
    say(reply.said)
    const line = document.querySelector('[data-status]')
    if (reply.url) {
      const link = document.createElement('a')
      Object.assign(link, { href: reply.url, textContent: 'See it in public', target: '_blank', rel: 'noopener' })
      line.append(' ', link)
    }
    last = reply.page
    const back = document.createElement('button')
    Object.assign(back, { type: 'button', textContent: 'Take back', title: 'T' })
    back.addEventListener('click', takeBack)
    line.append(' ', back)
  }
  // takeBack undoes what this screen published last, in the draft.
  let last = null
  async function takeBack() {
    if (!last) {
      say('Nothing was published from this screen; Drafts has the history.')
      return
    }
    const taken = await post('/take-back', { revision: last })
    if (taken) await ladder.goTo(ofPages ? taken.page : null, { late: taken.late })
  }

  async function openPreview() {
    if (!(await flush())) return
    if (await showPreview()) preview.showModal()
  }
  async function showPreview() {
    const reply = await get('/preview', preview.querySelector('[data-outline]').checked ? { outline: 'yes' } : {})
    if (reply.error) {
      complain(reply)
      return false
    }
    preview.querySelector('[data-frame]').src = reply.url
    return true
  }
  preview.querySelector('[data-outline]').addEventListener('change', showPreview)
  preview.addEventListener('click', event => {
    if (event.target.closest('[data-two-visitors]')) openSides(desk.get('as') ? 'signed-out' : 'signed-in')
    const width = event.target.closest('[data-width]')
    if (!width) return
    for (const button of preview.querySelectorAll('[data-width]'))
      button.setAttribute('aria-pressed', String(button === width))
    shownWidth = width.dataset.width
    preview.classList.toggle('phone', shownWidth === 'phone')
    fit()
  })
  // The page is laid out at a real width, so that what wraps here wraps for visitors.
  let shownWidth = 'desktop'
  const fit = () => fitFrame(preview.querySelector('[data-frame]'), shownWidth)
  new ResizeObserver(fit).observe(preview.querySelector('.preview-stage'))
  const find = () =>
    pick({
      title: 'Find a page, menu, item or block',
      verb: 'Go there',
      moving: false,
      sorts: 'menu item block',
      take: hit => (hit.url ? goTo(hit.url) : goPage(hit.id)),
    })
  const goTo = async url => {
    if (await leave()) location.assign(url)
  }
  const goPage = id => {
    if (thing.rooted) ladder.goTo(id)
    else location.assign(address('/tree', { page: id }))
  }
  const moveTo = () => {
    const row = ladder.selected()
    const many = ladder.marking.form()
    if (!many[thing.many] && (!row || isRoot(row))) {
      complain({ error: row ? 'The home page stays where it is.' : 'Select something to move.' })
      return
    }
    const what = many[thing.many] ? `${many[thing.many].split(',').length} ${thing.words}` : `“${row.dataset.label}”`
    const takes = () => (picker.querySelector('[data-takes]')?.checked ? { takes: 'yes' } : {})
    const inTree = (hit, way) => ({ target: hit.id, way, ...takes() })
    const inMenu = (hit, way) =>
      hit.key.startsWith('menu:') ? { target: '', to: hit.key.slice(5) } : { target: hit.key, way }
    const at = ofPages ? inTree : inMenu
    pick({
      title: `Move ${what} to…`,
      verb: 'Move',
      moving: true,
      admits: ofPages,
      at,
      source: ofPages ? '/find' : '/menus/find',
      take: (hit, way) => ladder.act({ do: 'move', [thing.key]: row?.dataset.id, ...many, ...at(hit, way) }),
    })
  }
  // A topic is given to pages from where either is in sight: to the page or selection of the tree, or by the topic to a page.
  const tag = () => {
    const row = ladder.selected()
    const many = ladder.marking.form()
    const own = row?.dataset.topic === 'yes'
    if (!row && !many[thing.many]) return
    pick({
      title: own ? `Pages about “${row.dataset.label}”: add one` : 'Add a topic',
      verb: 'Add it',
      moving: false,
      sorts: own ? '' : 'topic',
      take: hit =>
        own
          ? ladder.act({ do: 'tag', page: hit.id, topic: row.dataset.id, stay: 'yes' })
          : ladder.act({ do: 'tag', page: row?.dataset.id, ...many, topic: hit.id }),
    })
  }
  // One topic is merged into another, with what that comes to before it is done.
  const merge = () => {
    const row = ladder.selected()
    const at = hit => ({ do: 'merge', page: row.dataset.id, topic: hit.id })
    pick({
      title: `Merge “${row.dataset.label}” into…`,
      verb: 'Merge',
      moving: true,
      ways: {},
      sorts: 'topic',
      landing: at,
      take: hit => ladder.act(at(hit)),
    })
  }
  const times = document.querySelector('[data-window]')
  const form = times.querySelector('form')
  const asked = () => ({
    do: thing.dates ?? 'window',
    [thing.key]: desk.get(thing.key) ?? '',
    ...ladder.marking.form(),
    ...Object.fromEntries(new FormData(form)),
  })
  function when() {
    const many = ladder.marking.form()
    times.querySelector('[data-window-words]').textContent = many[thing.many]
      ? `For ${many[thing.many].split(',').length} ${thing.words}.`
      : `For “${ladder.selected()?.dataset.label}”.`
    times.showModal()
  }
  form.addEventListener('input', async () => {
    const reply = await post(thing.attempt, asked(), true)
    times.querySelector('[data-window-facts]').textContent = reply.error ?? reply.facts.changes.join(' ')
  })
  form.addEventListener('submit', async event => {
    event.preventDefault()
    const form = asked()
    times.close()
    if (!(await ladder.act(form))) times.showModal()
  })
  const help = () => document.querySelector('[data-help]').showModal()
  return { openReview, openPreview, find, moveTo, tag, merge, when, help, pick, takeBack }
}
