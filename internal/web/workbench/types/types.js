// The page types: each change is an edit of the draft, and is made as a field is left.
import { complain, once, post, refresh, say } from '../desk/desk.js'

export function startTypes() {
  const focus = () => document.querySelector('main h1')?.focus()
  const kind = () => document.querySelector('[data-kind]')?.dataset.kind
  async function act(form, input) {
    const reply = await post('/types/edit', form, true)
    input?.setAttribute('aria-invalid', String(Boolean(reply.error)))
    if (reply.error) {
      complain(reply)
      return null
    }
    say(reply.said ?? '')
    if (reply.url) location.assign(reply.url)
    else await refresh()
    return reply
  }
  const own = dataset => ({ field: dataset.kindField ?? dataset.kindSet ?? dataset.kindCheck, old: dataset.old })
  document.addEventListener('change', event => {
    const input = event.target
    const { kindField, kindCheck, detailField, old } = input.dataset
    if (kindField) act({ do: 'kind', kind: kind(), ...own(input.dataset), new: input.value }, input)
    if (kindCheck) act({ do: 'kind', kind: kind(), ...own(input.dataset), new: input.dataset.new }, input)
    if (detailField) {
      const detail = input.closest('[data-detail]').dataset.detail
      act({ do: 'detail', detail, field: detailField, old, new: input.value }, input)
    }
  })
  document.addEventListener('click', async event => {
    const button = event.target.closest('[data-types-do], [data-kind-set]')
    if (!button) return
    const { typesDo, kindSet, detail } = button.dataset
    if (kindSet) act({ do: 'kind', kind: kind(), ...own(button.dataset), new: button.dataset.new })
    else {
      const reply = await act({ do: typesDo, kind: kind(), detail: detail ?? '' })
      if (!reply) return
      const again = document.querySelector(`[data-types-do="${typesDo}"][data-detail="${CSS.escape(detail ?? '')}"]`)
      again && !again.disabled ? again.focus() : (again?.closest('li').querySelector('summary').focus() ?? focus())
    }
  })
  document.addEventListener('submit', async event => {
    const form = event.target
    if (!form.matches('[data-types-form]')) return
    event.preventDefault()
    const made = await once(form, () => act(Object.fromEntries(new FormData(form))))
    if (made && !made.url) {
      const field = document.querySelector('.new-detail [name="label"]')
      field.value = ''
      field.focus() // who adds one goes on from there
    }
  })
  const ladder = { goTo: () => refresh(), act, selected: () => null, focus, marking: { form: () => ({}), clear() {} } }
  return {
    ladder,
    choose: pick =>
      document.addEventListener('click', event => {
        const place = event.target.closest('[data-pick-place]')
        if (!place) return
        pick({
          title: 'In which page are new ones made?',
          verb: 'Use it',
          take: hit =>
            act({ do: 'kind', kind: kind(), field: 'default_place', old: place.dataset.old, new: String(hit.id) }),
        })
      }),
  }
}
