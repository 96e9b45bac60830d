// Carrying is the way for long moves, and the one that needs no dragging: pages are taken up, stay where they are until they
// are put down, and every row that is gone to offers before, inside and after.
import { complain, desk, onRefresh, post, say } from './desk.js'

export function startCarry(ladder, marking) {
  const bar = document.querySelector('[data-carry-bar]')
  const words = bar.querySelector('[data-carry-words]')
  const facts = bar.querySelector('[data-carry-facts]')
  const below = bar.querySelector('[name="below"]')
  let load = null // { pages, copying, count, label }

  function take(copying) {
    const row = ladder.selected()
    const form = marking.form()
    if (!form.pages && (!row || row.ariaLevel === '1')) { complain({ error: 'The home page stays where it is.' }); return }
    const pages = form.pages ?? row.dataset.page
    const count = pages.split(',').length
    load = { pages, copying, what: count > 1 ? `${count} pages` : `“${row.dataset.label}”` }
    bar.hidden = false
    bar.querySelector('[data-carry-below]').hidden = !copying
    words.textContent = `${copying ? 'Copying' : 'Carrying'} ${load.what}.`
    marking.clear()
    ask()
    say(`${copying ? 'Copying' : 'Carrying'} ${load.what}. Go to a page and put it before, inside or after it.`)
    ladder.focus()
  }
  const form = way => ({ do: load.copying ? 'copy' : 'move', page: load.pages.split(',')[0], pages: load.pages, target: desk.get('page'), way, below: below.checked ? 'yes' : '' })
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
  let soon
  function ask() {
    if (!load) return
    clearTimeout(soon)
    soon = setTimeout(async () => {
      if (!load) return
      const row = ladder.selected()
      for (const button of bar.querySelectorAll('[data-drop]')) button.disabled = row?.ariaLevel === '1' && button.dataset.drop !== 'into'
      const reply = await post('/try', form(row?.ariaLevel === '1' ? 'into' : 'after'), true)
      facts.textContent = reply.error ?? `After “${row?.dataset.label}”: ${reply.facts.place}. ${reply.facts.changes[0]}`
    }, 150)
  }
  onRefresh(ask)
  bar.addEventListener('click', event => {
    const button = event.target.closest('[data-drop]')
    if (button) drop(button.dataset.drop)
  })
  return { take, drop, down, busy: () => Boolean(load) }
}
