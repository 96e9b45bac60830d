// The workbench in the browser: it wires the screen to the modules beside it and decides nothing.
import { startAccess } from './access/access.js'
import { startCombos } from './desk/combo.js'
import { address, complain, desk, enter, get, ofPages, post, refresh, say, thing } from './desk/desk.js'
import { startDialogs } from './desk/dialogs.js'
import { startCarry } from './desk/carry.js'
import { startComing } from './coming/coming.js'
import { startDrafts } from './drafts/drafts.js'
import { startFilter, startKey } from './desk/filter.js'
import { copyWords, startLadder, toSheet } from './desk/ladder.js'
import { startMaking } from './desk/making.js'
import { listingActs } from './desk/listing.js'
import { startMap } from './layouts/map.js'
import { startMoments } from './desk/moments.js'
import { startMenus } from './menus/menus.js'
import { startNews } from './desk/news.js'
import { listKeys, startStrokes } from './desk/strokes.js'
import { startNumbers } from './picture/numbers.js'
import { startPicture } from './picture/picture.js'
import { startProblems } from './problems/problems.js'
import { startReviews } from './reviews/reviews.js'
import { startStart } from './start/start.js'
import { startTable } from './table/table.js'
import { startDetails } from './tree/details.js'
import { startFiles } from './tree/files.js'
import { startAudience, startTopics } from './tree/topics.js'
import { startSettings } from './settings/settings.js'
import { startWriting } from './tree/writing.js'
import { startTypes } from './types/types.js'
import { startVersions } from './wording/versions.js'
import { startWording } from './wording/wording.js'
import { leave, startSheet } from './desk/sheet.js'

if (document.querySelector('[data-ladder]')) startLadderArea()
if (document.querySelector('[data-area="layouts"]')) startMapArea()
if (document.querySelector('[data-area="settings"]')) startPlainArea(startSettings())
if (document.querySelector('[data-area="types"]')) startPlainArea(startTypes())
if (document.querySelector('[data-area="wording"]')) startPlainArea(startWording())
if (document.querySelector('[data-area="problems"]')) startPlainArea(startProblems())
if (document.querySelector('[data-area="numbers"]')) startPlainArea(startNumbers())
if (document.querySelector('[data-area="reviews"]')) startPlainArea(startReviews())
if (document.querySelector('[data-area="start"], [data-area="compare"]')) startPlainArea(startStart())
if (document.querySelector('[data-area="table"]')) startPlainArea(startTable())
if (document.querySelector('[data-area="import"]')) startPlainArea(startComing())
if (document.querySelector('[data-area="versions"]')) startPlainArea(startVersions())
if (document.querySelector('[data-area="access"]')) startPlainArea(startAccess())
if (document.querySelector('[data-area="write"]')) startWritingArea()
if (document.querySelector('[data-drafts]')) startDrafts()
if (document.querySelector('[data-picture]')) startPicture()
// Where there is no ladder the finder is that of the tree.
if (document.querySelector('[data-drafts], [data-picture]'))
  startStrokes({ find: () => location.assign(address('/tree', { show: 'find' })) })
document.body.dataset.ready = 'yes'

// unfold brings what folds where the screen is low, or folds it again.
function unfold(open) {
  open ? (document.body.dataset.unfolded = 'yes') : delete document.body.dataset.unfolded
}

// The tree and the menus have the same frame: a ladder, the sheet of what is selected, dialogs, undo and publishing.
function startLadderArea() {
  const acts = {}
  const ladder = startLadder({
    rename() {
      const label = document.querySelector('[data-fields] [name="label"]')
      if (label?.closest('details')) label.closest('details').open = true
      document.body.dataset.pane = 'sheet'
      label?.focus()
      label?.select()
    },
    giveUp: () => carry.down('Everything stayed where it was.'),
  })
  const carry = startCarry(ladder, ladder.marking)
  acts.drop = () => carry.drop('after')
  const filter = document.querySelector('[data-filter]') ? startFilter(ladder) : { clear() {}, focus() {} }
  startNews()
  startCombos()
  startTopics(ladder)
  startAudience()
  startFiles(ladder)
  startSheet(ladder)
  const dialogs = startDialogs(ladder)
  ladder.pick = dialogs.pick
  const make = startMaking(ladder, dialogs)
  startDetails(ladder, dialogs.pick)
  if (thing.key === 'item') {
    startKey(async question => {
      question ? desk.set('ask', question) : desk.delete('ask')
      await refresh({ keepScroll: false })
    })
  }
  const step = stepper(ladder)
  const press = field => () => document.querySelector(`[data-field-set="${field}"]:not([disabled])`)?.click()
  Object.assign(
    acts,
    {
      find: dialogs.find,
      'move-to': dialogs.moveTo,
      tag: dialogs.tag,
      merge: dialogs.merge,
      preview: dialogs.openPreview,
      review: dialogs.openReview,
      help: dialogs.help,
      'take-back': dialogs.takeBack,
      'make-before': () => make('before'),
      'make-after': () => make('after'),
      'make-into': () => make('into'),
      list: press('listed'),
      online: press(ofPages ? 'status' : 'on'),
      undo: step('/undo'),
      redo: step('/redo'),
      bin: () => ladder.act({ do: thing.remove, [thing.key]: desk.get(thing.key), ...ladder.marking.form() }),
      carry: () => carry.take(false),
      copy: () => carry.take(true),
      'put-down': () => carry.down('Everything stayed where it was.'),
      only: async () => {
        if ((await leave()) && (await goInto('/drafts/only'))) dialogs.openReview()
      },
      'mark-all': ladder.marking.all,
      unmark: ladder.marking.clear,
      unfilter: filter.clear,
      filter: () => {
        unfold(true)
        filter.focus()
      },
      window: dialogs.when,
      unfold: () => unfold(!('unfolded' in document.body.dataset)),
      see: () => document.querySelector('[data-status] a, .answers a[target]')?.click(),
      write: async () => {
        if (await leave()) location.assign(address('/write'))
      },
      'as-table': async () => {
        const chosen = ladder.marking.form().pages?.split(',').length ?? 0
        const instead = 'Clear the selection: the answers to the filter, or the branch, come in several tables.'
        const most = Number(document.body.dataset.tableRows)
        if (chosen > most)
          complain({ error: `A table has ${most} pages at most, and ${chosen} are selected. ${instead}` })
        else if (await leave()) location.assign(address('/table', ladder.marking.form()))
      },
      reword: async () => {
        if (await leave()) location.assign(address('/wording'))
      },
      'to-sheet': toSheet,
      'to-ladder': ladder.focus,
      'copy-label': () => copyWords('label', ladder.selected()),
      'copy-address': () => copyWords('address', ladder.selected()),
    },
    thing.key === 'item'
      ? startMenus(ladder, dialogs)
      : listingActs(ladder, dialogs, () => ({ page: desk.get('page') ?? '' })),
  )
  wire(acts, ladder)
  const show = desk.get('show')
  if (show) {
    const preset = Object.fromEntries(
      ['kind', 'lists', 'label'].map(key => [key, desk.get(`make-${key}`) ?? undefined]),
    )
    for (const key of ['show', 'make-kind', 'make-lists', 'make-label']) desk.delete(key)
    history.replaceState(null, '', `${location.pathname}?${desk}`)
    if (show === 'make') make('into', preset)
    else if (show === 'find') dialogs.find()
    else if (show === 'review') dialogs.openReview()
    else dialogs.openPreview()
  }
  if (!show && document.activeElement === document.body) ladder.focus() // so that keys work from the first
}

// The layouts have the same frame, with a map in place of the ladder.
function startMapArea() {
  const acts = {}
  const { ladder, placeChip, takeOut, newBlock, newNotice, chosen, marks } = startMap()
  startNews()
  startCombos()
  startSheet(ladder)
  const dialogs = startDialogs(ladder)
  ladder.pick = dialogs.pick
  const step = stepper(ladder)
  const named = { before: 'page', into: 'branch', after: 'topic' }
  const spot = field =>
    dialogs.pick({
      title: field === 'where' ? 'Where should it show?' : 'Where should it not show?',
      verb: 'Use it',
      moving: true,
      landing: (hit, way) => ({
        do: 'add',
        ...chosen(),
        field,
        item: `${named[way]}:${hit.id}`,
      }),
      ways: { before: 'This page alone', into: 'It and all below it', after: 'The pages about this topic' },
      ofTopics: 'after', // a way that only topics have
      take: async (hit, way) => {
        await ladder.act({ do: 'add', ...chosen(), field, item: `${named[way]}:${hit.id}` })
        document.querySelector(`[data-spot="${field}"]`)?.focus() // who states one thing goes on from there
      },
    })
  const replaced = () => ({
    ...marks.form(),
    block: document.querySelector('[data-sheet]')?.dataset.block ?? '',
  })
  document.addEventListener('click', event => {
    const pick = event.target.closest('[data-spot]')
    if (pick) spot(pick.dataset.spot)
  })
  Object.assign(acts, {
    find: dialogs.find,
    preview: dialogs.openPreview,
    review: dialogs.openReview,
    help: dialogs.help,
    'take-back': dialogs.takeBack,
    undo: step('/undo'),
    redo: step('/redo'),
    'move-to': () => placeChip(),
    online: () => document.querySelector('[data-field-set="on"]:not([disabled])')?.click(),
    'place-chip': () => placeChip(),
    'take-chip': takeOut,
    'take-block': () => ladder.act({ do: 'take-block', ...chosen() }),
    'new-block': newBlock,
    window: dialogs.when,
    unmark: () => {
      marks.clear()
      ladder.focus()
    },
    replace: () =>
      dialogs.pick({
        title: 'Replace by which block, in all places?',
        verb: 'Put it there',
        source: '/layouts/find',
        landing: hit => ({ do: 'replace', ...replaced(), by: hit.key }),
        take: hit => ladder.act({ do: 'replace', ...replaced(), by: hit.key }),
      }),
    notice: newNotice,
    'add-block': () =>
      dialogs.pick({
        title: 'Add which block?',
        verb: 'Put it into a region…',
        source: '/layouts/find',
        take: hit => placeChip(hit.key),
      }),
    'map-page': () =>
      dialogs.pick({
        title: 'See the map of which page?',
        verb: 'Look there',
        take: async hit => {
          desk.set('page', hit.id)
          history.replaceState(null, '', `${location.pathname}?${desk}`)
          await refresh()
        },
      }),
    ...listingActs(ladder, dialogs, chosen),
    'choose-image': () =>
      dialogs.pick({
        title: 'Which image?',
        verb: 'Use it',
        sorts: 'file',
        take: hit => ladder.act({ do: 'image', ...chosen(), file: hit.key }),
      }),
  })
  wire(acts, ladder)
  if (document.activeElement === document.body) ladder.focus()
}

// The settings, the page types and access have neither ladder nor map. What an area has to bring into the draft before
// that is reviewed, it does when it is asked whether it is ready.
function startPlainArea({ ladder, choose, ready = () => true }) {
  startNews()
  startCombos()
  const dialogs = startDialogs(ladder)
  const step = stepper(ladder)
  choose(dialogs.pick)
  wire(
    {
      find: dialogs.find,
      preview: dialogs.openPreview,
      review: async () => {
        if (await ready()) dialogs.openReview()
      },
      help: dialogs.help,
      'take-back': dialogs.takeBack,
      undo: step('/undo'),
      redo: step('/redo'),
    },
    ladder,
  )
}

// Writing has the editor in place of the ladder.
function startWritingArea() {
  const { ladder, back } = startWriting()
  startNews()
  startCombos()
  startSheet(ladder)
  const dialogs = startDialogs(ladder)
  ladder.pick = dialogs.pick
  const step = stepper(ladder)
  wire(
    {
      find: dialogs.find,
      preview: dialogs.openPreview,
      review: dialogs.openReview,
      help: dialogs.help,
      'take-back': dialogs.takeBack,
      write: back,
      undo: step('/undo'),
      redo: step('/redo'),
    },
    ladder,
  )
}

// stepper undoes or does again, and goes to what that was about.
function stepper(ladder) {
  return path =>
    async (had = document.activeElement) => {
      if (!(await leave())) return
      const reply = await post(path)
      if (!reply) return
      if (reply.menu && thing.key === 'item') desk.set('menu', reply.menu)
      await ladder.goTo(reply[thing.key], { had, late: reply.late })
    }
}

// goInto asks for another draft, and goes there.
async function goInto(path) {
  const reply = await post(path)
  if (!reply) return false
  enter(reply.draft)
  await refresh()
  return true
}

// startPopups lets what folds out over the screen fold in again: by Escape, which goes back to what opened it, and by a press elsewhere.
function startPopups() {
  document.addEventListener('keydown', event => {
    const popup = event.key === 'Escape' && event.target.closest('[data-popup][open]')
    if (!popup) return
    event.preventDefault()
    popup.open = false
    popup.querySelector('summary').focus()
  })
  document.addEventListener('pointerdown', event => {
    for (const popup of document.querySelectorAll('[data-popup][open]'))
      if (!popup.contains(event.target)) popup.open = false
  })
}

// look goes to see the site as another visitor, or at another moment.
async function look(form) {
  if (!(await leave())) return
  if (form.elements.as.value === '+') {
    location.assign(address('/access/people', { show: 'look' }))
    return
  }
  const reply = await get('/moment', { moment: form.elements.at.value })
  if (reply.error) {
    complain(reply)
    return
  }
  const chosen = { as: form.elements.as.value, at: reply.at }
  for (const [name, value] of Object.entries(chosen)) value ? desk.set(name, value) : desk.delete(name)
  location.search = desk
}

// wire connects what every area has: buttons that name what they do, keys, the lens, drafts.
// bringBack makes something as it was then, in the draft, and goes there.
async function bringBack(form) {
  const reply = await post('/bring-back', form, true)
  if (reply.error) return complain(reply)
  sessionStorage.setItem('said', reply.said)
  location.assign(reply.url)
}

// fix mends one problem where it is told.
const fix = id => atOnce('/problems/fix', { id })

// atOnce does what a button of a sheet says; the button may go with what it is for.
async function atOnce(path, form) {
  const reply = await post(path, form, true)
  if (reply.error) complain(reply)
  else say(reply.said)
  document.querySelector('#sheet-title')?.focus()
  await refresh()
}

function wire(acts, ladder) {
  acts.join = () => goInto('/drafts/join')
  document.addEventListener('click', event => {
    const button = event.target.closest('[data-do]')
    const jump = event.target.closest('[data-go]')
    if (button) acts[button.dataset.do]?.()
    if (jump) ladder.goTo(jump.dataset.go)
    const problem = event.target.closest('[data-problem-fix]')
    if (problem) fix(problem.dataset.problemFix)
    const bring = event.target.closest('[data-bring], [data-bring-menu]')
    if (bring) bringBack({ bring: bring.dataset.bringMenu ?? '', below: bring.dataset.bring === 'branch' ? 'yes' : '' })
    const keep = event.target.closest('[data-keep]')
    if (keep) atOnce('/start/keep', { kept: keep.dataset.keep, page: keep.dataset.page ?? desk.get('page') })
    const right = event.target.closest('[data-still-right]')
    if (right) atOnce('/still-right', { branch: right.dataset.stillRight === 'branch' ? 'yes' : '' })
  })
  startStrokes(acts)
  document.addEventListener('change', event => {
    const form = event.target.closest('[data-lens]')
    if (form) look(form)
    const chosen = event.target
    if (chosen.dataset.setValue && chosen.value !== '-') {
      ladder.act({ do: 'set', field: chosen.dataset.setValue, new: chosen.value, ...ladder.marking.form() })
      chosen.value = '-'
    }
    if (event.target.matches('[data-letters]')) localStorage.setItem('letters', event.target.checked ? 'on' : 'off')
  })
  document.addEventListener('click', event => {
    if (!event.target.closest('[data-plain-lens]')) return
    event.preventDefault()
    desk.delete('as')
    desk.delete('at')
    location.search = desk
  })
  document.addEventListener('submit', async event => {
    if (!event.target.matches('[data-new-draft]')) return
    event.preventDefault()
    const reply = await post('/drafts/new', { name: event.target.elements.name.value })
    if (reply) {
      desk.set('draft', reply.draft)
      location.search = desk
    }
  })
  document.addEventListener('click', async event => {
    const link = event.target.closest('a[href]')
    const elsewhere = event.ctrlKey || event.metaKey || event.shiftKey || event.button !== 0
    if (!link || link.target || elsewhere || event.defaultPrevented) return
    event.preventDefault()
    if (await leave()) location = link.href
  })
  startPopups()
  startMoments()
  listKeys(document.querySelector('[data-keys]'), document.body.dataset.area)
  document.querySelector('[data-letters]').checked = localStorage.getItem('letters') !== 'off'
}
