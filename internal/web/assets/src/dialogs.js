// Dialogs: the page picker (to find and to move), the review before publishing, and the preview.
import Alpine from '@alpinejs/csp'
import { complain, desk, get, part, post, refresh, say } from './desk.js'
import { flush } from './sheet.js'

let opened = null // how the picker was opened: { title, verb, moving, take }

export function startDialogs(ladder) {
  const picker = document.querySelector('[data-picker]')
  const review = document.querySelector('[data-review]')
  const preview = document.querySelector('[data-preview]')
  let state

  Alpine.data('picker', () => ({
    title: '', verb: '', words: '', hits: [], at: 0, moving: false, way: 'into', facts: '',
    get isBefore() { return String(this.way === 'before') },
    get isInto() { return String(this.way === 'into') },
    get isAfter() { return String(this.way === 'after') },
    get active() { return this.hits.length ? `hit-${this.hits[this.at].id}` : null },
    before() { this.way = 'before'; this.ask() },
    into() { this.way = 'into'; this.ask() },
    after() { this.way = 'after'; this.ask() },
    init() {
      state = this
      this.$watch('words', () => { clearTimeout(this.soon); this.soon = setTimeout(() => this.search(), 100) })
      this.$refs.q.addEventListener('keydown', event => {
        const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
        if (step && this.hits.length) { event.preventDefault(); this.mark((this.at + step + this.hits.length) % this.hits.length) }
        if (event.key === 'Enter') { event.preventDefault(); this.take() }
      })
    },
    async search() {
      const reply = await get('/find', { q: this.words })
      this.hits = (reply.hits ?? []).map(hit => ({ ...hit, key: `hit-${hit.id}`, on: 'false' }))
      this.facts = this.hits.length || !this.words ? '' : 'No page has that label or address.'
      if (this.hits.length) this.mark(0)
    },
    mark(at) {
      this.at = at
      this.hits = this.hits.map((hit, i) => ({ ...hit, on: String(i === at) }))
      this.ask()
    },
    choose(event) {
      const id = event.target.closest('[data-hit]').dataset.hit
      this.mark(this.hits.findIndex(hit => String(hit.id) === id))
      if (!this.moving) this.take()
    },
    async ask() {
      if (!this.moving || !this.hits.length) return
      const reply = await post('/try', { do: 'move', page: desk.get('page'), ...ladder.marking.form(), target: this.hits[this.at].id, way: this.way }, true)
      this.facts = reply.error ?? `${reply.facts.place} · ${reply.facts.address} · ${reply.facts.changes.join(' ')}`
    },
    take() {
      if (!this.hits.length) return
      picker.close()
      opened.take(this.hits[this.at], this.way)
    },
  }))
  Alpine.start()

  function pick(how) {
    opened = how
    Object.assign(state, { title: how.title, verb: how.verb, moving: how.moving, words: '', hits: [], facts: '', way: 'into' })
    picker.showModal()
    state.$refs.q.focus()
  }
  for (const dialog of document.querySelectorAll('dialog')) {
    dialog.addEventListener('click', event => { if (event.target.closest('[data-close]')) dialog.close() })
    dialog.addEventListener('close', () => { if (dialog !== preview || dialog.dataset.back !== 'no') ladder.focus() })
  }

  async function openReview() {
    if (!await flush()) return
    const content = await part('/review', 'review')
    if (!content) return
    review.replaceChildren(content)
    if (!review.open) review.showModal()
    review.querySelector('.primary:not([disabled])')?.focus()
  }
  review.addEventListener('click', async event => {
    const held = event.target.closest('[data-held]')
    if (!held) return
    const version = review.querySelector('[name="version"]').value
    if (await post('/held', { held: held.dataset.held, keep: held.dataset.keep, version })) { await refresh(); openReview() }
  })
  review.addEventListener('submit', async event => {
    event.preventDefault()
    const form = new FormData(event.target)
    const button = event.target.querySelector('.primary')
    button.disabled = true
    const reply = await post('/publish', Object.fromEntries(form), true)
    if (reply.error) { review.close(); complain(reply); await refresh(); return }
    review.close()
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
    const back = document.createElement('button')
    Object.assign(back, { type: 'button', textContent: 'Take back' })
    back.addEventListener('click', async () => {
      const taken = await post('/take-back', { revision: reply.page })
      if (taken) await ladder.goTo(taken.page)
    })
    line.append(' ', back)
  }

  async function openPreview() {
    if (!await flush()) return
    const reply = await get('/preview')
    if (reply.error) { complain(reply); return }
    preview.querySelector('[data-frame]').src = reply.url
    preview.showModal()
  }
  preview.addEventListener('click', event => {
    const width = event.target.closest('[data-width]')
    if (!width) return
    for (const button of preview.querySelectorAll('[data-width]')) button.setAttribute('aria-pressed', String(button === width))
    preview.classList.toggle('phone', width.dataset.width === 'phone')
  })
  const find = () => pick({ title: 'Find a page', verb: 'Go there', moving: false, take: hit => ladder.goTo(hit.id) })
  const moveTo = () => {
    const row = ladder.selected()
    const many = ladder.marking.form()
    if (!many.pages && (!row || row.ariaLevel === '1')) { complain({ error: 'The home page stays where it is.' }); return }
    const what = many.pages ? `${many.pages.split(',').length} pages` : `“${row.dataset.label}”`
    pick({ title: `Move ${what} to…`, verb: 'Move', moving: true,
      take: (hit, way) => ladder.act({ do: 'move', page: row?.dataset.page, ...many, target: hit.id, way }) })
  }
  const times = document.querySelector('[data-window]')
  const form = times.querySelector('form')
  const asked = () => ({ do: 'window', page: desk.get('page'), ...ladder.marking.form(), ...Object.fromEntries(new FormData(form)) })
  function when() {
    const many = ladder.marking.form()
    times.querySelector('[data-window-words]').textContent = many.pages ? `For ${many.pages.split(',').length} pages.` : `For “${ladder.selected()?.dataset.label}”.`
    times.showModal()
  }
  form.addEventListener('input', async () => {
    const reply = await post('/try', asked(), true)
    times.querySelector('[data-window-facts]').textContent = reply.error ?? reply.facts.changes.join(' ')
  })
  form.addEventListener('submit', async event => {
    event.preventDefault()
    const form = asked()
    times.close()
    if (!await ladder.act(form)) times.showModal()
  })
  const help = () => document.querySelector('[data-help]').showModal()
  return { openReview, openPreview, find, moveTo, when, help }
}
