// Find and replace: each hit can be left out, and all that is ticked is one edit.
import { address, complain, post, refresh, rowless, say } from '../desk/desk.js'

export function startWording() {
  const focus = () => document.querySelector('#w-find')?.focus()
  const boxes = () => document.querySelectorAll('[data-wording-replace] fieldset:enabled [name="hit"]')
  document.addEventListener('submit', async event => {
    const form = event.target
    if (form.matches('[data-wording-find]')) {
      event.preventDefault()
      const asked = new FormData(form)
      location.assign(
        address(
          '/wording',
          Object.fromEntries(['find', 'with', 'exact', 'whole'].map(of => [of, asked.get(of) ?? ''])),
        ),
      )
    }
    if (form.matches('[data-wording-replace]')) {
      event.preventDefault()
      // by what stands in the field now
      const data = new FormData(form)
      data.set('with', document.querySelector('#w-with').value)
      const reply = await post('/wording', data, true)
      if (reply.error) complain(reply)
      else say(reply.said)
      focus() // a form that somebody is in is left as it is
      await refresh()
    }
  })
  document.addEventListener('click', event => {
    const all = event.target.closest('[data-wording-all]')
    if (all) for (const box of boxes()) box.checked = all.dataset.wordingAll === 'yes'
  })
  // What will stand there is shown as it is typed.
  document.addEventListener('input', event => {
    if (event.target.id !== 'w-with') return
    for (const words of document.querySelectorAll('.wording-hit ins')) words.textContent = event.target.value
  })
  return rowless(focus)
}
