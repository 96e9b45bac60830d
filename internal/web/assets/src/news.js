// News of other people's publications and, in a shared draft, of their edits: the screen comes up to date by itself. A tab that
// is out of sight lets its connection go, since a browser has few for one host, and comes up to date when it is looked at again.
import { address, refresh, say } from './desk.js'

export function startNews() {
  let mine = 0 // until when changes are our own doing
  let waiting, source
  const bring = words => () => {
    if (Date.now() < mine) return
    clearTimeout(waiting)
    waiting = setTimeout(async () => { await refresh(); say(words) }, 200)
  }
  function listen() {
    source = new EventSource(address('/news'))
    source.addEventListener('published', bring('Somebody has published. What you see is up to date.'))
    source.addEventListener('draft', bring('Somebody has edited this draft. What you see is up to date.'))
  }
  listen()
  document.addEventListener('visibilitychange', () => {
    source.close()
    if (document.hidden) return
    listen()
    refresh()
  })
  addEventListener('pagehide', () => source.close())
  document.addEventListener('own-edit', () => { mine = Date.now() + 1500 })
}
