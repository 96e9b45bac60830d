// Topics: the first list of a site is made here, and a page is taken out of what a topic gathers. The picker gives topics.
import { once, post } from '../desk/desk.js'

export function startTopics(ladder) {
  document.addEventListener('submit', async event => {
    const form = event.target.closest('[data-new-list]')
    if (!form) return
    event.preventDefault()
    const reply = await once(form, () => post('/edit', { do: 'make-list', label: form.elements.label.value }))
    if (!reply) return
    form.reset()
    await ladder.goTo(reply.page, { late: reply.late })
  })
  document.addEventListener('click', event => {
    const button = event.target.closest('[data-untag]')
    if (!button) return
    const { untag, topic } = button.dataset
    ladder.act({ do: 'tag', way: 'take', page: untag, topic, stay: 'yes' })
  })
}
