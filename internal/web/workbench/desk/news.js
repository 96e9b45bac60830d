// News of publications and, in a shared draft, of other people's edits: the screen comes up to date by itself. A tab that
// is out of sight lets its connection go, since a browser has few for one host, and comes up to date when it is looked at again.
import { address, idle, refresh, say } from './desk.js'

// What the screen shows already, its own edits among it, is no news.
const shown = what => Number(document.querySelector(`[data-${what}]`)?.dataset[what] ?? 0)

export function startNews() {
  let waiting, arriving, source
  const bring = (what, words) => event => {
    clearTimeout(waiting)
    waiting = setTimeout(async () => {
      await idle()
      if (Number(event.data) <= shown(what)) return
      await refresh()
      say(words)
    }, 200)
  }
  function listen() {
    source = new EventSource(address('/news'))
    source.addEventListener('published', bring('revision', 'Somebody has published. What you see is up to date.'))
    source.addEventListener('here', event => {
      if (event.data !== document.querySelector('[data-sheet]')?.dataset.sheet) return
      clearTimeout(arriving)
      arriving = setTimeout(async () => {
        await idle()
        refresh()
      }, 300)
    })
    source.addEventListener('draft', bring('version', 'Somebody has edited this draft. What you see is up to date.'))
  }
  listen()
  document.addEventListener('visibilitychange', () => {
    source.close()
    if (document.hidden) return
    listen()
    refresh()
  })
  addEventListener('pagehide', () => source.close())
}
