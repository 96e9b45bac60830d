// Before and after, side by side: the real page as it is public and as the draft will make it, scrolled together, with what differs
// marked. The two frames belong to the public site and are spoken with by messages.
import { diffArrays } from 'diff'
import { complain, desk, get } from './desk.js'

import { fitFrame } from './fit.js'

export function startSides() {
  const dialog = document.querySelector('[data-sides]')
  const find = name => dialog.querySelector(`[data-${name}]`)
  const frames = [find('before'), find('after')]
  const words = find('sides-words')
  let list = [],
    of = 0,
    index = 0,
    as = '',
    beside = '',
    width = 'desktop',
    lines = [null, null]

  async function load() {
    const reply = await get('/sides', { as, beside })
    if (reply.error) {
      complain(reply)
      return false
    }
    list = reply.sides.pages ?? []
    of = reply.sides.of
    index = 0
    show()
    return true
  }

  function show() {
    const side = list[index]
    lines = [null, null]
    find('sides-title').textContent = side?.label ?? 'No page'
    words.textContent = side
      ? `Page ${index + 1} of ${of}` +
        (of > list.length ? `, of which the ${list.length} nearest to the home page can be looked through` : '')
      : 'No page differs for this visitor.'
    find('sides-differ').textContent = ''
    find('earlier').disabled = index === 0
    find('later').disabled = index >= list.length - 1
    find('sides-stage').hidden = !side
    if (!side) return
    const when = side.when ? ` ${side.when}` : ''
    find('before-words').textContent =
      (side.left && `As ${side.left}`) ||
      `${side.when ? `If nothing is published,${when}` : 'Public now'}: ${side.was || 'not there'}`
    find('after-words').textContent =
      (side.right && `As ${side.right}`) || `After publishing${side.when ? `,${when}` : ''}: ${side.is || 'not there'}`
    frames[0].src = side.before
    frames[1].src = side.after
    fit()
  }

  // fit lays the page out at its real width and draws it as large as there is room for.
  function fit() {
    for (const frame of frames) fitFrame(frame, width)
  }
  new ResizeObserver(fit).observe(find('sides-stage'))

  function compare() {
    const marked = [[], []]
    const at = [0, 0]
    for (const { added, removed, value } of diffArrays(lines[0], lines[1])) {
      const n = value.length
      if (!added) {
        if (removed) marked[0].push(...range(at[0], n))
        at[0] += n
      }
      if (!removed) {
        if (added) marked[1].push(...range(at[1], n))
        at[1] += n
      }
    }
    frames.forEach((frame, i) =>
      send(frame, { mark: marked[i], show: i === 1 ? marked[1].length > 0 : marked[1].length === 0 }),
    )
    const [gone, made] = marked.map(list => list.length)
    find('sides-differ').textContent =
      gone + made
        ? `Marked: ${gone} ${gone === 1 ? 'place' : 'places'} ${beside ? 'at the left, ' : 'before, '}${made} ` +
          `${beside ? 'at the right' : 'after'}.`
        : 'Nothing that can be seen differs on this page.'
  }
  const range = (from, n) => Array.from({ length: n }, (_, i) => from + i)
  const send = (frame, what) => frame.contentWindow?.postMessage(what, new URL(frame.src).origin)

  addEventListener('message', event => {
    const i = frames.findIndex(
      frame => frame.src && event.source === frame.contentWindow && event.origin === new URL(frame.src).origin,
    )
    if (i < 0 || !dialog.open) return
    const { at, followed, lines: said, scrolled, opened, leave } = event.data
    if (opened) send(frames[1 - i], { open: opened })
    if (leave) find('later').focus()
    if (scrolled !== undefined) send(frames[1 - i], { scroll: scrolled })
    if (!said || (!followed && !isShown(i, at))) return // what was asked for before can come late
    lines[i] = said
    if (lines[0] && lines[1]) compare()
    follow(i, at)
  })

  // isShown says whether a path is the one that a frame was led to.
  const isShown = (i, at) => new URL(frames[i].src).pathname.split('/').slice(3).join('/') === at.slice(1)

  // follow leads the other side along where a link was followed in one.
  function follow(i, at) {
    if (isShown(1 - i, at) || isShown(i, at)) return
    const side = list[index]
    const other = new URL(i ? side.before : side.after)
    lines[1 - i] = null
    find('sides-title').textContent = at
    frames[1 - i].src = other.origin + other.pathname.split('/').slice(0, 3).join('/') + at
  }

  const step = by => {
    if (list[index + by]) {
      index += by
      show()
    }
  }
  find('earlier').addEventListener('click', () => step(-1))
  find('later').addEventListener('click', () => step(1))
  dialog.addEventListener('keydown', event => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
    if (by && !event.target.matches('select')) {
      event.preventDefault()
      step(by)
    }
  })
  dialog.addEventListener('change', event => {
    if (event.target.matches('[name="as"]')) {
      as = event.target.value
      load()
    }
    if (event.target.matches('[name="beside"]')) {
      beside = event.target.value
      load()
    }
    if (event.target.matches('[name="beside"]')) {
      beside = event.target.value
      load()
    }
  })
  dialog.addEventListener('click', event => {
    const chosen = event.target.closest('[data-width]')
    if (!chosen) return
    width = chosen.dataset.width
    for (const button of dialog.querySelectorAll('[data-width]'))
      button.setAttribute('aria-pressed', String(button === chosen))
    dialog.classList.toggle('phone', width === 'phone')
    fit()
  })
  dialog.addEventListener('close', () => {
    for (const frame of frames) frame.removeAttribute('src')
  })

  return async function open(visitors = '') {
    as = desk.get('as') ?? ''
    beside = visitors
    dialog.querySelector('[name="beside"]').value = beside
    dialog.querySelector('[name="as"]').value = as
    if (!(await load())) return
    dialog.showModal()
    fit()
    find('later').disabled ? dialog.querySelector('[data-close]').focus() : find('later').focus()
  }
}
