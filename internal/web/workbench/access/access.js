// Access: roles are edits of the draft, people are changed at once.
import { address, complain, desk, once, post, refresh, say } from '../desk/desk.js'

export function startAccess() {
  const focus = () => (document.querySelector('#sheet-title') ?? document.querySelector('main h1'))?.focus()
  const role = () => document.querySelector('[data-role]')?.dataset.role
  async function act(form, path = '/access/edit', filled) {
    const reply = await post(path, form, true)
    if (reply.error) {
      complain(reply)
      await refresh() // what was ticked stands as it is
      return null
    }
    say(reply.said ?? '')
    filled?.reset() // it is done with, and stands as the answer has it
    if (reply.url) location.assign(reply.url)
    else await refresh()
    return reply
  }
  document.addEventListener('change', async event => {
    const { roleInclude, old } = event.target.dataset
    if (event.target.matches('[data-role-name]')) act({ do: 'name', role: role(), old, new: event.target.value })
    if (roleInclude) {
      await act({ do: event.target.checked ? 'include' : 'exclude', role: role(), other: roleInclude })
      if (document.activeElement === document.body)
        // who has gone on meanwhile is not taken back
        document.querySelector(`[data-role-include="${CSS.escape(roleInclude)}"]`)?.focus()
    }
    if (event.target.closest('[data-why]')) {
      const { who, may } = event.target.form.elements
      location.assign(address('/access/why', { who: who.value, may: may.value }))
    }
  })
  document.addEventListener('click', async event => {
    const forbid = event.target.closest('[data-forbid]')
    if (forbid && (await act({ do: 'forbid', role: role(), grant: forbid.dataset.forbid }))) focus()
    if (event.target.closest('[data-take-role]') && (await act({ do: 'take-role', role: role() }))) focus()
  })
  let pick
  document.addEventListener('submit', async event => {
    const form = event.target
    if (form.matches('[data-look-as]')) {
      event.preventDefault()
      location.assign(address('/tree', { as: new FormData(form).getAll('as').join('|') }))
      return
    }
    if (!form.matches('[data-access-form], [data-people-form]')) return
    event.preventDefault()
    const data = new FormData(form)
    if (form.matches('[data-permit]') && data.get('on') === 'page') {
      pick({
        title: 'On which page, with all below it?',
        verb: 'Let it there',
        take: async hit => {
          data.set('on', `page:${hit.id}`)
          await act(data, undefined, form)
          focus()
        },
      })
      return
    }
    await once(form, () => act(data, form.matches('[data-people-form]') ? '/access/people' : undefined, form))
  })
  document.addEventListener('click', event => {
    if (!event.target.closest('[data-why-page]')) return
    pick({
      title: 'Who can do what on which page?',
      verb: 'Ask there',
      take: hit => {
        desk.set('page', hit.id)
        location.assign(address('/access/why', { who: desk.get('who') ?? '', may: desk.get('may') ?? '' }))
      },
    })
  })
  const ladder = { goTo: () => refresh(), act, selected: () => null, focus, marking: { form: () => ({}), clear() {} } }
  return { ladder, choose: given => (pick = given) }
}
