// The groups of a sheet fold; which ones a person has folded in is remembered in this browser.
const folded = () => new Set(JSON.parse(localStorage.getItem('folded') ?? '[]'))
// fold folds the groups of a sheet in that the person had folded in.
export function fold(pane) {
  const are = folded()
  for (const group of pane.querySelectorAll('[data-group]')) group.open = !are.has(group.dataset.group)
}
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
