// Problems: what is ticked is fixed in one edit of the draft, or said to be meant so.
import { complain, post, refresh, rowless, say, untilCounted } from '../desk/desk.js'

export function startProblems() {
  const focus = () => document.querySelector('main h1')?.focus()
  const form = () => document.querySelector('[data-problems-form]')
  const boxes = () => document.querySelectorAll('[data-problems-form] [name="id"]')
  const dialog = () => document.querySelector('[data-mean-dialog]')

  // what is ticked, or all that was asked for where the one box for all is
  function ticked() {
    const data = new FormData(form())
    if (document.querySelector('[data-problems-all]')?.checked) data.set('all', 'yes')
    return data
  }
  async function act(path, data) {
    const reply = await post(path, data, true)
    if (reply.error) complain(reply)
    else say(reply.said)
    focus() // a form that somebody is in is left as it is
    await refresh()
    return !reply.error
  }

  document.addEventListener('submit', async event => {
    if (event.target.matches('[data-problems-form]')) {
      event.preventDefault()
      await act('/problems/fix', ticked())
    }
    if (event.target.matches('[data-mean-form]')) {
      event.preventDefault()
      const data = ticked()
      for (const [name, value] of new FormData(event.target)) data.set(name, value)
      dialog().close()
      await act('/problems/meant', data)
    }
  })
  document.addEventListener('click', async event => {
    const { target } = event
    const back = target.closest('[data-problem-back]')
    if (back) await act('/problems/meant-no-more', { id: back.dataset.problemBack })
    if (target.closest('[data-problems-mean]')) {
      if ([...boxes()].some(box => box.checked)) {
        dialog().showModal()
        document.querySelector('#mean-reason').focus()
      } else complain({ error: 'Tick the problems that are meant so.' })
    }
    if (target.closest('[data-mean-close]')) dialog().close()
  })
  document.addEventListener('change', event => {
    if (event.target.matches('[data-problems-all]')) for (const box of boxes()) box.checked = event.target.checked
    else if (event.target.name === 'id') document.querySelector('[data-problems-all]').checked = false
  })
  untilCounted()
  return rowless(focus)
}
