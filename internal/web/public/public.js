// Comfort for the header's drop-downs, which work without it: one is open at a time, Escape closes it and gives the focus
// back, a click elsewhere closes it.
const drops = [...document.querySelectorAll('.mainnav > .folded > ul > li > details')]

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

// Who may edit can hide the links to what stands on the page; it is remembered in this browser.
const edits = document.querySelector('[data-edit-switch]')
if (edits) {
  const show = hidden => {
    document.body.classList.toggle('edits-hidden', hidden)
    edits.textContent = hidden ? 'Show edit links' : 'Hide edit links'
    edits.setAttribute('aria-pressed', String(hidden))
  }
  show(localStorage.getItem('edit-links') === 'hidden')
  edits.addEventListener('click', () => {
    const hidden = !document.body.classList.contains('edits-hidden')
    localStorage.setItem('edit-links', hidden ? 'hidden' : 'shown')
    show(hidden)
  })
}

// While somebody types what they seek, labels of pages are proposed.
for (const sought of document.querySelectorAll('.searching input')) {
  let soon
  sought.addEventListener('input', () => {
    clearTimeout(soon)
    soon = setTimeout(async () => {
      const begun = sought.value.trim()
      if (begun.length < 2) return
      const answer = await fetch(`${sought.form.action}?${new URLSearchParams({ begun })}`)
      if (!answer.ok || sought.value.trim() !== begun) return
      const labels = await answer.json()
      sought.list.replaceChildren(
        ...labels.map(label => Object.assign(document.createElement('option'), { value: label })),
      )
    }, 150)
  })
}
