import { address } from './desk.js'

// The groups of a sheet fold; which ones a person has folded in is remembered in this browser.
const folded = () => new Set(JSON.parse(localStorage.getItem('folded') ?? '[]'))
// fold folds the groups of a sheet in that the person had folded in.
export function fold(pane) {
  const are = folded()
  for (const group of pane.querySelectorAll('[data-group]')) group.open = !are.has(group.dataset.group)
}
// The history of a thing is asked for when somebody opens it: it costs what was published with it.
addEventListener(
  'toggle',
  async event => {
    const { history } = event.target.dataset ?? {}
    if (!history || !event.target.open) return
    const answer = await fetch(address('/history-of', Object.fromEntries(new URLSearchParams(history))))
    if (answer.ok) event.target.querySelector('div').innerHTML = await answer.text() // made by the server's templates
  },
  true,
)
addEventListener(
  'toggle',
  event => {
    const { group } = event.target.dataset ?? {}
    if (!group) return
    const are = folded()
    event.target.open ? are.delete(group) : are.add(group)
    localStorage.setItem('folded', JSON.stringify([...are]))
  },
  true,
)
