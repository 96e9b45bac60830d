// The filter cuts the ladder down to the pages that answer a question or have some words; what stands above them stays in sight.
import { desk, onRefresh, part, refresh, thing } from './desk.js'

export function startFilter(ladder) {
  const form = document.querySelector('[data-filter]')
  const { words, ask, within } = form.elements
  let soon

  async function apply() {
    for (const [name, value] of [
      ['words', words.value.trim()],
      ['ask', ask.value],
      ['about', form.elements.about?.checked ? form.elements.about.value : ''],
      ['within', within.checked ? within.value : ''],
    ]) {
      value ? desk.set(name, value) : desk.delete(name)
    }
    history.replaceState(null, '', `${location.pathname}?${desk}`)
    await refresh({ keepScroll: false })
    document.querySelector('[data-ladder]').scrollTop = 0
  }
  form.addEventListener('input', event => {
    if (event.target === within) within.value = within.checked ? desk.get('page') : ''
    clearTimeout(soon)
    soon = setTimeout(apply, event.target === words ? 250 : 0)
  })
  form.addEventListener('submit', event => {
    event.preventDefault()
    clearTimeout(soon)
    apply().then(() => ladder.focus())
  })
  form.addEventListener('keydown', event => {
    if (event.key !== 'Escape') return
    event.preventDefault()
    clear()
  })
  async function clear() {
    form.reset()
    words.value = ask.value = ''
    within.checked = false
    if (form.elements.about) form.elements.about.checked = false
    await apply()
    ladder.goTo(desk.get('page'))
  }
  startKey(question => {
    ask.value = question
    apply()
  })
  return { clear, focus: () => words.focus() }
}

// The key counts every row, so it comes by itself after them. Pressing a shape asks for it alone.
export function startKey(choose) {
  document.addEventListener('click', event => {
    const line = event.target.closest('[data-ask]')
    if (line) choose(line.getAttribute('aria-pressed') === 'true' ? '' : line.dataset.ask)
  })
  let counting
  async function count() {
    const content = await part(thing.count, 'key')
    const key = document.querySelector('[data-part="key"]')
    if (content && !key.contains(document.activeElement)) key.replaceChildren(content)
    else if (content) {
      const had = document.activeElement.dataset.ask
      key.replaceChildren(content)
      key.querySelector(`[data-ask="${had}"]`)?.focus()
    }
  }
  onRefresh(() => {
    clearTimeout(counting)
    counting = setTimeout(count, 300)
  })
  count()
}
