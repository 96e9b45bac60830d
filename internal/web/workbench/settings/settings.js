// The settings: each is an edit of the draft; what closing does is said before it is done.
import { onRefresh, post, refresh } from '../desk/desk.js'

export function startSettings() {
  const focus = () => document.querySelector('main h1')?.focus()
  async function act(form) {
    const reply = await post('/settings/edit', form)
    await refresh()
    return reply
  }
  const ladder = { goTo: () => refresh(), act, selected: () => null, focus, marking: { form: () => ({}), clear() {} } }
  async function facts() {
    const button = document.querySelector('[data-setting="closed"]:not([disabled])')
    if (!button) return
    const reply = await post(
      '/settings/try',
      { field: 'closed', old: button.dataset.old, new: button.dataset.new },
      true,
    )
    const out = document.querySelector('[data-closed-facts]')
    if (out) out.textContent = reply.error ?? reply.facts.changes.join(' ')
  }
  onRefresh(facts)
  facts()
  document.addEventListener('click', event => {
    const set = event.target.closest('[data-setting]')
    if (set) act({ field: set.dataset.setting, old: set.dataset.old, new: set.dataset.new })
  })
  document.addEventListener('change', event => {
    const input = event.target
    if (input.dataset.settingField) act({ field: input.dataset.settingField, old: input.dataset.old, new: input.value })
    if (input.dataset.kindLayout)
      act({ kind: input.dataset.kindLayout, field: 'layout', old: input.dataset.old, new: input.value })
  })
  return {
    ladder,
    choose: pick =>
      document.addEventListener('click', event => {
        const special = event.target.closest('[data-special]')
        if (special)
          pick({
            title: 'Which page stands in?',
            verb: 'Use it',
            take: hit => act({ field: special.dataset.special, old: special.dataset.old, new: String(hit.id) }),
          })
      }),
  }
}
