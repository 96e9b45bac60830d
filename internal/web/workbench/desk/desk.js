// The desk is what this tab looks at. It lives in the address, goes with every request, and the server answers with parts
// of the screen that replace those that stand.
import { fold } from './groups.js'
import { morph } from './morph.js'

export const desk = new URLSearchParams(location.search)

// pages are the rows of an area that has some of the tree's.
const pages = (area, words, rooted = false) => ({
  key: 'page',
  many: 'pages',
  path: `/${area}`,
  edit: '/edit',
  attempt: '/try',
  open: `/${area}/open`,
  ask: `/${area}/ask`,
  tally: '/tally',
  selection: '/selection',
  count: '/key',
  remove: 'bin',
  rooted,
  words,
})
// The thing that the rows of this area are: how the server calls it, and where it is asked.
const things = {
  tree: pages('tree', 'pages', true),
  topics: pages('topics', 'topics'),
  files: pages('files', 'files'),
  write: pages('write', 'pages'),
  wording: pages('wording', 'pages'),
  versions: pages('versions', 'pages'),
  import: pages('import', 'pages'),
  problems: pages('problems', 'pages'),
  reviews: pages('reviews', 'pages'),
  numbers: pages('numbers', 'pages'),
  compare: pages('compare', 'pages'),
  start: pages('start', 'pages'),
  table: pages('table', 'pages'),
  menus: {
    key: 'item',
    many: 'items',
    path: '/menus',
    edit: '/menus/edit',
    attempt: '/menus/try',
    open: '/menus/open',
    ask: '/menus/ask',
    tally: '/menus/tally',
    selection: '/menus/selection',
    count: '/menus/key',
    remove: 'take',
    dates: 'dates',
    rooted: false,
    words: 'items',
  },
  types: {
    key: 'page',
    many: 'pages',
    path: '/types',
    edit: '/types/edit',
    attempt: '/types/try',
    rooted: false,
    words: 'page types',
  },
  settings: {
    key: 'page',
    many: 'pages',
    path: '/settings',
    edit: '/settings/edit',
    attempt: '/settings/try',
    rooted: false,
    words: 'settings',
  },
  access: {
    key: 'page',
    many: 'pages',
    path: location.pathname, // of the part that is shown
    edit: '/access/edit',
    attempt: '/access/edit',
    rooted: false,
    words: 'roles',
  },
  layouts: {
    key: 'chip',
    many: 'chips',
    path: '/layouts',
    edit: '/layouts/edit',
    attempt: '/layouts/try',
    selection: '/layouts/selection',
    dates: 'dates',
    remove: 'take',
    rooted: false,
    words: 'blocks',
  },
}
export const thing = things[document.body.dataset.area] ?? things.tree
export const ofPages = thing.key === 'page'
export const isRoot = row => thing.rooted && row?.ariaLevel === '1'

const status = document.querySelector('[data-status]')
const alertLine = document.querySelector('[data-alert]')

let fading
// say tells what was done. The line goes by itself, unless it holds something to press.
export function say(words) {
  status.textContent = words
  calm()
  clearTimeout(fading)
  fading = setTimeout(() => {
    if (!status.querySelector('button')) status.textContent = ''
  }, 12000)
}

// wayOut is a link to where what was refused is put right.
function wayOut({ href, words, before }) {
  const link = document.createElement('a')
  link.href = href
  link.textContent = words
  link.addEventListener('click', before)
  return link
}

// complain tells why nothing was done. The line stays until it is closed, or what caused it is over.
export function complain(reply) {
  alertLine.querySelector('[data-alert-words]').textContent = reply.error
  if (reply.way) alertLine.querySelector('[data-alert-words]').append(' ', wayOut(reply.way))
  alertLine.hidden = false
}
export function calm() {
  alertLine.hidden = true
}
alertLine?.querySelector('[data-alert-close]').addEventListener('click', calm)

export function address(path, more = {}) {
  const query = new URLSearchParams(desk)
  for (const [key, value] of Object.entries(more)) query.set(key, value)
  return `${path}?${query}`
}

let busy = 0
// during marks the screen as busy while an edit or a refresh is on its way.
async function during(work) {
  document.body.dataset.busy = ++busy
  try {
    return await work()
  } finally {
    if (--busy) document.body.dataset.busy = busy
    else delete document.body.dataset.busy
  }
}

// once does the work of a form unless it is on its way already; then it gives undefined.
export async function once(form, work) {
  if (form.dataset.sending) return undefined
  form.dataset.sending = 'yes'
  try {
    return await work()
  } finally {
    delete form.dataset.sending
  }
}

let turn = Promise.resolve()
// inTurn does a work when those before it are done, what they brought to the screen among it: who presses twice means the
// state that the first press led to.
export function inTurn(work) {
  turn = turn.then(work, work)
  return turn
}

// idle waits until no edit or refresh is on its way.
export async function idle() {
  while (busy) await new Promise(go => setTimeout(go, 50))
}

let held = false
addEventListener(
  'pointerdown',
  event => {
    held = event.button === 0
  },
  true,
)
for (const name of ['pointerup', 'pointercancel'])
  addEventListener(
    name,
    () => {
      held = false
    },
    true,
  )
addEventListener('blur', () => {
  held = false
}) // of the window; that of a field does not bubble

// released waits until no pointer is pressed. What is replaced between press and release never hears of the click.
async function released() {
  while (held) await new Promise(go => setTimeout(go, 20))
}

// post sends a form and gives the reply; what went wrong is said, and null given.
export function post(path, form = {}, quiet = false) {
  return /\/(try|tally|open)$/.test(path) ? send(path, form, quiet) : during(() => send(path, form, quiet))
}

// What the answer to the last edit carried: the parts of the screen as they are after it, and for which query.
let carried = null

// carries says whether the answer to a request brings the parts of this screen along.
const carries = path => document.body.dataset.area in things && !/\/(try|tally|open)$|^\/drafts\//.test(path)

// shown are the query and the window of rows that the screen shows.
function shown(keepScroll) {
  const rows = document.querySelector('[data-part="rows"] .window')
  return keepScroll && rows ? { from: rows.dataset.from } : {}
}

// bodyOf gives what is sent: the desk's query, with what the form says in its place. A form can say one thing twice.
function bodyOf(form) {
  const body = new URLSearchParams(desk)
  const said = form instanceof FormData ? [...form] : Object.entries(form)
  for (const [name] of said) body.delete(name)
  for (const [name, value] of said) body.append(name, value)
  return body
}

async function send(path, form, quiet) {
  let response, reply
  const stood = desk.get(thing.key)
  const headers = { 'X-Part': 'reply' }
  if (carries(path)) headers['X-Carry'] = address(thing.path, shown(true))
  try {
    response = await fetch(path, {
      method: 'POST',
      body: bodyOf(form),
      headers,
    })
    reply = await response.json()
    carried = reply.parts ? { at: new URLSearchParams(reply.at), parts: reply.parts } : null
  } catch {
    reply = {
      error:
        'The server does not answer. Nothing was changed, and what you typed is still here; try again in a moment.',
    }
  }
  if (reply.error) {
    if (!quiet) complain(reply)
    return quiet ? reply : null
  }
  if (reply.said) say(reply.said)
  reply.late = desk.get(thing.key) !== stood // the person has gone on meanwhile, and is not taken back
  return reply
}

// upload sends a file and gives the hit that it became; what went wrong is said, and null given.
export async function upload(file) {
  const form = new FormData()
  for (const [key, value] of desk) form.set(key, value)
  form.set('file', file)
  form.set('parent', ofPages ? (desk.get('page') ?? '') : '') // what belongs to a page is for whom the page is
  let reply
  try {
    reply = await (await fetch('/files', { method: 'POST', body: form, headers: { 'X-Part': 'reply' } })).json()
  } catch {
    reply = {
      error: 'The file did not get through. It may be too large, or the server does not answer; nothing was changed.',
    }
  }
  if (reply.error) {
    complain(reply)
    return null
  }
  say(reply.said)
  return reply.hits[0]
}

export async function get(path, more) {
  try {
    const response = await fetch(address(path, more), { headers: { 'X-Part': 'reply' } })
    return await response.json()
  } catch {
    return { error: 'The server does not answer.' }
  }
}

// reach asks until the server answers: while it does not, that is said, and it is asked again after growing pauses.
async function reach(ask) {
  for (let pause = 1; ; pause = Math.min(2 * pause, 4)) {
    try {
      const response = await ask()
      if (![502, 503, 504].includes(response.status)) {
        if (pause > 1) calm()
        return response
      }
    } catch {
      // the connection is gone, or the server
    }
    complain({ error: 'The server does not answer. What you see may be old; it is asked again by itself.' })
    await new Promise(go => {
      setTimeout(go, pause * 1000)
      addEventListener('online', go, { once: true })
    })
  }
}

// part asks for a part of the screen.
export async function part(path, name, more) {
  const response = await reach(() => fetch(address(path, more), { headers: { 'X-Part': name } }))
  if (response.status === 401) {
    complain(await response.json())
    return null
  }
  if (!response.ok) {
    complain({ error: await response.text() })
    return null
  }
  const holder = document.createElement('template')
  holder.innerHTML = await response.text()
  return holder.content
}

// select makes a row the selected one and keeps it in the address.
export function select(id) {
  if (desk.get(thing.key) !== String(id)) calm()
  desk.set(thing.key, id)
  history.replaceState(null, '', `${location.pathname}?${desk}`)
}

// enter goes to another draft and keeps it in the address.
export function enter(draft) {
  desk.set('draft', draft)
  history.replaceState(null, '', `${location.pathname}?${desk}`)
}

const after = []
export function onRefresh(run) {
  after.push(run)
}

// brought gives what the answer to the last edit carried, once, if it is of the screen that is looked at.
function brought(more) {
  const { at, parts } = carried ?? {}
  carried = null
  const wanted = new URLSearchParams(address('', more).slice(1))
  at?.sort()
  wanted.sort()
  if (!at || at.toString() !== wanted.toString()) return null
  const holder = document.createElement('template')
  holder.innerHTML = parts
  return holder.content
}

let newest = 0
// refresh brings every part of the screen up to date. Parts that a person is typing in stay as they are.
export function refresh(how) {
  return during(() => bringUp(how))
}

async function bringUp({ keepScroll = true } = {}) {
  const mine = ++newest
  const content = brought(shown(keepScroll)) ?? (await part(thing.path, 'all', shown(keepScroll)))
  await released()
  if (!content || mine !== newest) return
  const giveBack = keepFocus()
  for (const fresh of content.querySelectorAll('template[data-for]')) {
    const standing = document.querySelector(`[data-part="${fresh.dataset.for}"]`)
    if (standing.contains(document.activeElement) && document.activeElement.matches('[data-popup][open] input'))
      continue
    if (fresh.dataset.for === 'sheet' && 'many' in document.body.dataset) continue // it is the selection's
    if (standing.querySelector('.making')) continue // somebody is naming a page; the rows come with it
    if (isDrawn(fresh.dataset.for)) standing.replaceChildren(fresh.content)
    else if (isAnother(standing, fresh.content)) turnTo(standing, fresh.content)
    else morph(standing, fresh.content)
  }
  for (const run of after) run()
  giveBack()
}

// turnTo has a sheet be of something else: from its top, with those groups open that were.
function turnTo(standing, content) {
  standing.replaceChildren(content)
  standing.scrollTop = 0
  fold(standing)
}

// sheetOf asks for the sheet of several things and shows it.
export async function sheetOf(ids) {
  document.body.dataset.many = ids.length
  const response = await fetch(thing.selection, {
    method: 'POST',
    body: new URLSearchParams({ ...Object.fromEntries(desk), [thing.many]: ids.join(',') }),
    headers: { 'X-Part': 'reply' },
  })
  if (!response.ok || !document.body.dataset.many) return
  const holder = document.createElement('template')
  holder.innerHTML = await response.text()
  const pane = document.querySelector('[data-part="sheet"]')
  if (isAnother(pane, holder.content)) turnTo(pane, holder.content)
  else morph(pane, holder.content)
}

// isDrawn says whether a part is drawn by hand: ladder and map find the focus again themselves.
const isDrawn = name => ['rows', 'map', 'tray'].includes(name)

// isAnother says whether a sheet is of something else than the one that stands.
const isAnother = (standing, fresh) =>
  standing.querySelector('[data-sheet]')?.dataset.sheet !== fresh.querySelector('[data-sheet]')?.dataset.sheet

// What had the focus before parts of the screen were last replaced.
export let focusBefore = null

// keepFocus remembers what has the focus, by what it is and not by its node, and gives a function that puts it back there
// if that left nothing with the focus.
export function keepFocus() {
  const had = document.activeElement
  focusBefore = had
  const row = had.closest('.rung[data-id]')
  const cell = had.closest('[role="gridcell"]')
  const attribute = ['data-do', 'data-field-set', 'data-go'].find(name => had.hasAttribute(name))
  let find = () => null
  if (had.closest('.making')) find = () => null
  else if (row) {
    const at = cell ? [...row.children].indexOf(cell) : -1
    find = () => {
      const again = document.getElementById(row.id)
      return at < 0 ? again : again?.children[at]
    }
  } else if (had.id) find = () => document.getElementById(had.id)
  else if (attribute) {
    const part = had.closest('[data-part]')?.dataset.part
    find = () => part && document.querySelector(`[data-part="${part}"] [${attribute}="${had.getAttribute(attribute)}"]`)
  }
  return () => {
    if (document.activeElement === document.body && had !== document.body)
      (had.isConnected ? had : find())?.focus({ preventScroll: true })
  }
}

// rowless is what stands for the ladder in an area that has none.
export const rowless = focus => ({
  ladder: {
    goTo: () => refresh(),
    act: () => refresh(),
    selected: () => null,
    focus,
    marking: { form: () => ({}), clear() {} },
  },
  choose() {},
})

// untilCounted asks again, as long as a part says that it is still being counted in the background.
export function untilCounted() {
  setTimeout(async () => {
    if (document.querySelector('[data-counting]') && !document.querySelector('dialog[open]')) await refresh()
    untilCounted()
  }, 1000)
}
