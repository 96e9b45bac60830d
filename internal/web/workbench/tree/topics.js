// Topics: the first list of a site is made here, and a page is taken out of what a topic gathers. The picker gives topics.
import { complain, desk, once, post, refresh, say } from '../desk/desk.js'

// Who sees a page: several roles at once, and the way out of “only us until it is ready”.
export function startAudience() {
  const field = () => document.querySelector('#f-audience')
  async function set(audience) {
    const old = field().dataset.old
    const reply = await post(
      '/edit',
      { do: 'field', page: desk.get('page'), field: 'audience', old, new: audience },
      true,
    )
    if (reply.error) complain(reply)
    else say(reply.said ?? '')
    await refresh()
    return !reply.error
  }
  document.addEventListener('change', async event => {
    const { audienceRole } = event.target.dataset
    if (!audienceRole) return
    const chosen = [...document.querySelectorAll('[data-audience-role]:checked')].map(box => box.dataset.audienceRole)
    await set(chosen.join('|'))
    document.querySelector(`[data-audience-role="${CSS.escape(audienceRole)}"]`)?.focus()
  })
  document.addEventListener('click', async event => {
    const open = event.target.closest('[data-open-up]')
    if (!open || !(await set(''))) return
    document.querySelector(`[data-sheet] [name="${open.dataset.openUp || 'audience'}"]`)?.focus()
  })
}

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
  // A document is looked at when it is chosen, and brought in when what it changes has been read.
  const send = (form, how) => {
    const body = new FormData()
    for (const [key, value] of desk) body.set(key, value)
    body.set('do', how)
    body.set('file', form.elements.file.files[0])
    return fetch('/topics/import', { method: 'POST', body, headers: { 'X-Part': 'reply' } })
      .then(answer => answer.json())
      .catch(() => ({ error: 'The document did not get through; it may be too large. Nothing was changed.' }))
  }
  document.addEventListener('change', async event => {
    const form = event.target.closest('[data-topics-in] form')
    if (!form) return
    const facts = form.querySelector('[data-topics-facts]')
    const button = form.querySelector('button')
    button.hidden = true
    if (!form.elements.file.files.length) return
    facts.textContent = 'Reading …'
    const reply = await send(form, 'try')
    facts.textContent = reply.error ?? [reply.facts.place, ...(reply.facts.changes ?? [])].join('. ')
    facts.classList.toggle('fault', Boolean(reply.error))
    button.hidden = Boolean(reply.error)
    if (reply.error) form.elements.file.value = '' // so that the same document can be chosen again when it is mended
  })
  document.addEventListener('submit', async event => {
    const form = event.target.closest('[data-topics-in] form')
    if (!form) return
    event.preventDefault()
    const reply = await once(form, () => send(form, 'take'))
    if (!reply || reply.error) return complain(reply)
    form.reset()
    form.querySelector('[data-topics-facts]').textContent = ''
    form.querySelector('button').hidden = true
    say(reply.said)
    await refresh()
  })
  document.addEventListener('click', event => {
    const button = event.target.closest('[data-untag]')
    if (!button) return
    const { untag, topic } = button.dataset
    ladder.act({ do: 'tag', way: 'take', page: untag, topic, stay: 'yes' })
  })
}
