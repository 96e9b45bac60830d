// Comfort for the header's drop-downs, which work without it: one is open at a time, Escape closes it and gives the focus
// back, a click elsewhere closes it.
const drops = [...document.querySelectorAll('.mainnav > ul > li > details')]

for (const drop of drops) {
  drop.addEventListener('toggle', () => {
    if (drop.open) for (const other of drops) if (other !== drop) other.open = false
  })
  drop.addEventListener('focusout', event => {
    if (event.relatedTarget && !drop.contains(event.relatedTarget)) drop.open = false
  })
}
document.addEventListener('keydown', event => {
  const open = event.key === 'Escape' && drops.find(drop => drop.open)
  if (!open) return
  open.open = false
  open.querySelector('summary').focus()
})
document.addEventListener('click', event => {
  for (const drop of drops) if (!drop.contains(event.target)) drop.open = false
})
