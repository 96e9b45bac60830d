// Writing: the text of a page with room, and the real page beside it, brought up to date when the text is kept.
import { address, desk, get, onRefresh, post, refresh } from '../desk/desk.js'
import { fitFrame } from '../desk/fit.js'
import { flush } from '../desk/sheet.js'

export function startWriting() {
  const frame = document.querySelector('[data-real]')
  const writes = () => document.querySelector('[data-editor] .prose')
  async function show() {
    const reply = await get('/preview')
    if (reply.url) frame.src = reply.url
  }
  new ResizeObserver(() => fitFrame(frame, 'desktop')).observe(frame.parentElement)
  onRefresh(show)
  show()
  async function act(form) {
    const reply = await post('/edit', form)
    await refresh()
    return reply
  }
  // What is written is kept after a pause, so that the page beside it follows.
  let soon
  document.addEventListener('written', () => {
    clearTimeout(soon)
    soon = setTimeout(flush, pause)
  })
  const back = async () => {
    if (await flush()) location.assign(address('/tree'))
  }
  document.addEventListener('click', event => {
    if (!event.target.closest('[data-back]')) return
    event.preventDefault()
    back()
  })
  const goTo = page => location.assign(address('/write', { page }))
  return {
    ladder: {
      goTo: page => (!page || String(page) === desk.get('page') ? refresh() : goTo(page)),
      act,
      selected: () => null,
      focus: () => writes()?.focus(),
      marking: { form: () => ({}), clear() {} },
    },
    back,
  }
}

// pause is how long nobody types before what is written is kept, in milliseconds.
const pause = 2500
