// The workbench in the browser: it wires the screen to the modules beside it and decides nothing.
import { desk, post, refresh } from './desk.js'
import { startDialogs } from './dialogs.js'
import { startLadder, startMaking } from './ladder.js'
import { flush, startSheet } from './sheet.js'

if (document.querySelector('[data-ladder]')) startTree()
if (document.querySelector('[data-drafts]')) startDrafts()

function startTree() {
  const acts = {}
  const ladder = startLadder({
    rename() { const label = document.querySelector('#f-label'); label?.focus(); label?.select() },
    letter(key) {
      if (localStorage.getItem('letters') === 'off') return false
      const run = { n: 'make-after', i: 'make-into', m: 'move-to', p: 'preview', l: 'list', o: 'online', '?': 'help', '/': 'find' }[key]
      if (run) acts[run]()
      return Boolean(run)
    },
  })
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
    undo: step('/undo'), redo: step('/redo'), bin: () => ladder.act({ do: 'bin', page: desk.get('page') }),
  })
  document.addEventListener('click', event => {
    const button = event.target.closest('[data-do]')
    const jump = event.target.closest('[data-go]')
    if (button) acts[button.dataset.do]()
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
  document.querySelector('[data-letters]').checked = localStorage.getItem('letters') !== 'off'
  document.body.dataset.ready = 'yes'
}

function startDrafts() {
  document.addEventListener('click', async event => {
    const back = event.target.closest('[data-take-back]')
    const restore = event.target.closest('[data-restore]')
    const reply = back ? await post('/take-back', { revision: back.dataset.takeBack })
      : restore ? await post('/edit', { do: 'restore', page: restore.dataset.restore }) : null
    if (reply) location = `/tree?page=${reply.page}`
  })
}
