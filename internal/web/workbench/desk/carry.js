// Carrying is the way for long moves, and the one that needs no dragging: rows are taken up, stay where they are until they
// are put down, and every row that is gone to offers before, inside and after.
import { complain, desk, isRoot, onRefresh, post, say, thing, ofPages } from './desk.js'

export function startCarry(ladder, marking) {
  const bar = document.querySelector('[data-carry-bar]')
  const words = bar.querySelector('[data-carry-words]')
  const below = bar.querySelector('[name="below"]')
  let load = null // { ids, copying, what }

  function take(copying) {
    const row = ladder.selected()
    const form = marking.form()
    if (!form[thing.many] && (!row || isRoot(row))) {
      complain({ error: row ? 'The home page stays where it is.' : 'Select something to carry.' })
      return
    }
    const ids = form[thing.many] ?? row.dataset.id
    const count = ids.split(',').length
    load = { ids, copying, what: count > 1 ? `${count} ${thing.words}` : `“${row.dataset.label}”` }
    bar.hidden = false
    bar.querySelector('[data-carry-below]').hidden = !copying || !ofPages
    words.textContent = `${copying ? 'Copying' : 'Carrying'} ${load.what}.`
    marking.clear()
    ask()
    say(`${copying ? 'Copying' : 'Carrying'} ${load.what}. Go to a row and put it before, inside or after it.`)
    ladder.focus()
  }
  const form = way => ({
    do: load.copying ? 'copy' : 'move',
    [thing.key]: load.ids.split(',')[0],
    [thing.many]: load.ids,
    target: desk.get(thing.key) ?? '',
    to: desk.get('menu') ?? '',
    way,
    below: below.checked ? 'yes' : '',
  })
  function down(said) {
    if (!load) return false
    load = null
    bar.hidden = true
    if (said) say(said)
    ladder.focus()
    return true
  }
  async function drop(way) {
    if (!load) return
    const asked = form(way)
    const reply = await ladder.act(asked)
    if (reply) down()
  }
  // tell says of one of the three gaps at the row where things would land there, and what that does.
  async function tell(button, row) {
    const way = button.dataset.drop
    const facts = bar.querySelector(`[data-drop-facts="${way}"]`)
    button.disabled = isRoot(row) && way !== 'into'
    if (button.disabled) {
      facts.textContent = ''
      return
    }
    const reply = await post(thing.attempt, form(way), true)
    facts.textContent = reply.error ?? `${reply.facts.place}. ${reply.facts.changes[0]}`
    facts.title = facts.textContent
    facts.classList.toggle('fault', Boolean(reply.error))
  }
  let soon
  function ask() {
    if (!load) return
    clearTimeout(soon)
    soon = setTimeout(async () => {
      if (!load) return
      const row = ladder.selected()
      await Promise.all([...bar.querySelectorAll('[data-drop]')].map(button => tell(button, row)))
    }, 150)
  }
  onRefresh(ask)
  bar.addEventListener('click', event => {
    const button = event.target.closest('[data-drop]')
    if (button) drop(button.dataset.drop)
  })
  return { take, drop, down, busy: () => Boolean(load) }
}
