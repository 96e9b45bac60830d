// The versions of a text: of each difference a side is taken, or one version comes back whole.
import { address, complain, desk, post, rowless, say } from '../desk/desk.js'

export function startVersions() {
  const focus = () => document.querySelector('#sheet-title')?.focus()
  document.addEventListener('submit', async event => {
    if (!event.target.matches('[data-versions]')) return
    event.preventDefault()
    const reply = await post('/versions', new FormData(event.target, event.submitter), true)
    if (reply.error) {
      complain(reply)
      return
    }
    say(reply.said)
    if (reply.url) {
      location.assign(reply.url)
      return
    }
    // on with what stands now beside what is public
    for (const of of ['was', 'is', 'base']) desk.delete(of)
    location.assign(address('/versions'))
  })
  return rowless(focus)
}
