// The list of menus, where they are too many for tabs: cut down by words and by what menus are.
export function startChoose() {
  const list = () => document.querySelector('[data-menu-choose]')
  function cut() {
    const words = list().querySelector('[data-menu-words]').value.trim().toLowerCase()
    const on = [...list().querySelectorAll('[data-menu-filter][aria-pressed="true"]')].map(b => b.dataset.menuFilter)
    let some = false
    for (const line of list().querySelectorAll('[data-kinds]')) {
      const kinds = line.dataset.kinds.split(' ')
      const fits = line.textContent.toLowerCase().includes(words) && on.every(kind => kinds.includes(kind))
      line.hidden = !fits
      some ||= fits
    }
    list().querySelector('[data-menu-none]').hidden = some
  }
  document.addEventListener('input', event => {
    if (event.target.matches('[data-menu-words]')) cut()
  })
  document.addEventListener('click', event => {
    const filter = event.target.closest('[data-menu-filter]')
    if (!filter) return
    filter.setAttribute('aria-pressed', String(filter.getAttribute('aria-pressed') !== 'true'))
    cut()
  })
  document.addEventListener(
    'toggle',
    event => {
      if (event.target === list() && list().open) list().querySelector('[data-menu-words]').focus()
    },
    true,
  )
}
