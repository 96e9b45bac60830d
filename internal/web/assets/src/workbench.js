// The workbench in the browser: it wires the screen to the modules beside it and decides nothing.
import { desk, post, refresh } from './desk.js'
import { startDialogs } from './dialogs.js'
import { startCarry } from './carry.js'
import { startDrafts } from './draftsarea.js'
import { startFilter } from './filter.js'
import { startLadder, startMaking } from './ladder.js'
import { startMenus } from './menus.js'
import { startNews } from './news.js'
import { startPicture } from './picture.js'
import { flush, startSheet } from './sheet.js'

if (document.querySelector('[data-ladder]')) startTree()
if (document.querySelector('[data-drafts]')) startDrafts()
if (document.querySelector('[data-picture]')) startPicture()
if (document.querySelector('[data-menus]')) startMenus()

function startTree() {
  const acts = {}
  const ladder = startLadder({
    rename() { const label = document.querySelector('#f-label'); label?.focus(); label?.select() },
    letter(key) {
      if (localStorage.getItem('letters') === 'off') return false
      const run = { n: 'make-after', i: 'make-into', m: 'move-to', p: 'preview', l: 'list', o: 'online', f: 'filter', '?': 'help', '/': 'find' }[key]
      if (run) acts[run]()
      return Boolean(run)
    },
    carry: () => acts.carry(), copy: () => acts.copy(), drop: way => carry.drop(way),
    giveUp: () => carry.down('Everything stayed where it was.'),
  })
  const carry = startCarry(ladder, ladder.marking)
  const filter = startFilter(ladder)
  startNews()
  const make = startMaking(ladder)
  startSheet(ladder)
  const dialogs = startDialogs(ladder)
  const step = path => async () => {
    if (!await flush()) return
    const reply = await post(path)
    if (reply) await ladder.goTo(reply.page)
  }
  const press = field => () => document.querySelector(`[data-field-set="${field}"]:not([disabled])`)?.click()
  Object.assign(acts, {
    find: dialogs.find, 'move-to': dialogs.moveTo, preview: dialogs.openPreview, review: dialogs.openReview, help: dialogs.help,
    'make-after': () => make('after'), 'make-into': () => make('into'), list: press('listed'), online: press('status'),
    undo: step('/undo'), redo: step('/redo'), bin: () => ladder.act({ do: 'bin', page: desk.get('page'), ...ladder.marking.form() }),
    carry: () => carry.take(false), copy: () => carry.take(true), 'put-down': () => carry.down('Everything stayed where it was.'),
    'mark-all': ladder.marking.all, unmark: ladder.marking.clear, unfilter: filter.clear, filter: filter.focus, window: dialogs.when,
  })
  document.addEventListener('click', event => {
    const button = event.target.closest('[data-do]')
    const jump = event.target.closest('[data-go]')
    const set = event.target.closest('[data-set]')
    if (button) acts[button.dataset.do]()
    if (set) ladder.act({ do: 'set', field: set.dataset.set, new: set.dataset.new, ...ladder.marking.form() })
    if (jump) ladder.goTo(jump.dataset.go)
  })
  document.addEventListener('keydown', event => {
    if (!(event.ctrlKey || event.metaKey) || document.querySelector('dialog[open]')) return
    const typing = event.target.closest('input, textarea, [contenteditable="true"]')
    const run = event.key === 'Enter' ? 'review' : typing ? null : { z: event.shiftKey ? 'redo' : 'undo', y: 'redo' }[event.key.toLowerCase()]
    if (!run) return
    event.preventDefault()
    if (event.target.blur && typing && event.target.matches('input, textarea')) event.target.blur()
    setTimeout(() => acts[run](), typing ? 250 : 0)
  })
  document.addEventListener('change', event => {
    const form = event.target.closest('[data-lens]')
    if (form) {
      for (const name of ['as', 'at']) form.elements[name].value ? desk.set(name, form.elements[name].value) : desk.delete(name)
      location.search = desk
    }
    if (event.target.matches('[data-letters]')) localStorage.setItem('letters', event.target.checked ? 'on' : 'off')
  })
  document.addEventListener('click', event => {
    if (!event.target.closest('[data-plain-lens]')) return
    event.preventDefault()
    desk.delete('as'); desk.delete('at')
    location.search = desk
  })
  document.addEventListener('submit', async event => {
    if (!event.target.matches('[data-new-draft]')) return
    event.preventDefault()
    const reply = await post('/drafts/new', { name: event.target.elements.name.value })
    if (reply) { desk.set('draft', reply.draft); location.search = desk }
  })
  document.querySelector('[data-letters]').checked = localStorage.getItem('letters') !== 'off'
  document.body.dataset.ready = 'yes'
}
