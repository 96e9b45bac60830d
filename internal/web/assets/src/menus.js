// The menus area: each form says what it does to the menu at hand; the screen is loaded again with the answer said.
import { complain, desk, post, say } from './desk.js'

export function startMenus() {
  const said = sessionStorage.getItem('said')
  if (said) { say(said); sessionStorage.removeItem('said') }
  const menu = () => document.querySelector('[data-look] [name="menu"]')?.value ?? ''

  async function send(path, form) {
    const reply = await post(path, { menu: menu(), ...form }, true)
    if (reply.error) { complain(reply); return }
    sessionStorage.setItem('said', reply.said ?? '')
    for (const name of ['menu', 'item']) reply[name] ? desk.set(name, reply[name]) : desk.delete(name)
    location.search = desk
  }
  document.addEventListener('submit', event => {
    const form = event.target
    if (!form.dataset.menuDo) return
    event.preventDefault()
    send(`/menus/${form.dataset.menuDo}`, Object.fromEntries(new FormData(form)))
  })
  document.querySelector('[data-look]')?.addEventListener('change', event => { if (event.target.matches('select')) event.currentTarget.requestSubmit() })
  document.addEventListener('change', event => {
    const input = event.target
    if (!input.closest('[data-item-fields]')) return
    send('/menus/field', { item: input.closest('[data-item]').dataset.item, field: input.name, old: input.dataset.old, new: input.value })
  })
  document.addEventListener('click', async event => {
    const step = event.target.closest('[data-step]')
    if (!step) return
    const reply = await post(step.dataset.step, {}, true)
    if (reply.error) { complain(reply); return }
    sessionStorage.setItem('said', reply.said ?? '')
    location.reload()
  })
}
