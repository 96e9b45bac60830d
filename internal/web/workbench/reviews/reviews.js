// Reviews: what is ticked is said to be still right, at once.
import { complain, post, refresh, rowless, say } from '../desk/desk.js'

export function startReviews() {
  const focus = () => document.querySelector('main h1')?.focus()
  document.addEventListener('submit', async event => {
    if (!event.target.matches('[data-reviews-form]')) return
    event.preventDefault()
    const reply = await post('/reviews/still-right', new FormData(event.target), true)
    if (reply.error) complain(reply)
    else say(reply.said)
    focus() // a form that somebody is in is left as it is
    await refresh()
  })
  return rowless(focus)
}
