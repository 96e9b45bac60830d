// Bringing in: an archive is looked at first, and goes into the draft when it is wanted. How far it is comes line by line.
import { address, complain, desk, refresh, say } from '../desk/desk.js'

export function startComing() {
  const find = name => document.querySelector(`[data-coming-${name}]`)
  let stopping
  function list({ rows = [], changes = [], more = 0, said = '' }) {
    find('said').textContent = said
    find('changes').replaceChildren(
      ...changes.map(words => Object.assign(document.createElement('li'), { textContent: words })),
    )
    find('rows').hidden = !rows.length
    find('rows')
      .querySelector('tbody')
      .replaceChildren(
        ...rows.map(({ file = '', label = '', told = '', left = '' }) => {
          const line = document.createElement('tr')
          for (const words of [file, label, told, left]) line.insertCell().textContent = words
          return line
        }),
      )
    if (more) find('said').textContent += ` The first ${rows.length} are listed; ${more} more are not.`
  }
  // lines gives what the server says, line by line.
  async function* lines(response) {
    let rest = ''
    for await (const part of response.body.pipeThrough(new TextDecoderStream())) {
      const whole = (rest + part).split('\n')
      rest = whole.pop()
      for (const line of whole) if (line) yield JSON.parse(line)
    }
    if (rest) yield JSON.parse(rest)
  }
  async function send(form, what) {
    const data = new FormData(form)
    for (const [key, value] of desk) data.set(key, value)
    data.set('do', what)
    stopping = new AbortController()
    find('far').hidden = false
    find('doing').textContent = 'Sending'
    let end
    try {
      const response = await fetch('/import', {
        method: 'POST',
        body: data,
        headers: { 'X-Part': 'reply', Accept: 'text/event-stream' },
        signal: stopping.signal,
      })
      for await (const news of lines(response)) {
        if (!news.of) end = news
        else {
          find('doing').textContent = news.of > 1 ? `${news.doing} ${news.done} of ${news.of}` : `${news.doing} …`
          find('far').querySelector('progress').value = (news.done ?? 0) / news.of
        }
      }
      end ??= { error: 'The server stopped in the middle; nothing was brought in.' }
    } catch {
      end = {
        error: stopping.signal.aborted
          ? 'Stopped; nothing was brought in.'
          : 'This did not get through. It may be too large, or the server does not answer; nothing was brought in.',
      }
    }
    find('far').hidden = true
    return end
  }
  document.addEventListener('submit', async event => {
    const form = event.target
    if (!form.matches('[data-coming]')) return
    event.preventDefault()
    const what = event.submitter?.value ?? 'look'
    const end = await send(form, what)
    if (end.error) {
      complain(end)
      return
    }
    list(end)
    if (what === 'bring') {
      say(end.said)
      if (end.url) {
        const link = document.createElement('a')
        link.href = end.url
        link.textContent = 'To the new pages'
        find('said').append(' ', link)
      }
      await refresh()
      return
    }
    find('bring').disabled = false
    find('bring').focus()
  })
  document.addEventListener('change', event => {
    if (event.target.id === 'i-file') find('bring').disabled = true // what is brought in was looked at
  })
  document.addEventListener('click', event => {
    if (event.target.closest('[data-coming-stop]')) stopping?.abort()
  })
  const focus = () => document.querySelector('#i-file')?.focus()
  return {
    ladder: {
      goTo: () => refresh(),
      act: () => location.assign(address('/tree')),
      selected: () => null,
      focus,
      marking: { form: () => ({}), clear() {} },
    },
    choose() {},
  }
}
