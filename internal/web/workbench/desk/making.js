// Making a page: an empty row at the gap, in sight of its neighbours. The menus area makes items in rows that stand likewise.
import { isRoot, once, post, thing } from './desk.js'

// lastBelow is the last row in sight of what is below a row; the row itself where nothing is.
export function lastBelow(row) {
  let last = row
  for (let next = row.nextElementSibling; next; next = next.nextElementSibling) {
    if (Number(next.ariaLevel) <= Number(row.ariaLevel)) break
    last = next
  }
  return last
}

// putRow stands a row for making something where it will land, with the rails of its neighbours beside it.
export function putRow(holder, row, way) {
  const rails = row?.querySelector('.rails')?.cloneNode(true)
  const into = way === 'into'
  if (rails && into) rails.append(document.createElement('i'))
  if (rails) holder.querySelector('[data-rails]').replaceChildren(rails)
  if (!row) document.querySelector('[data-part="rows"] .window').prepend(holder)
  else if (way === 'before') row.before(holder)
  else lastBelow(row).after(holder)
}

// landsAt says where something new lands, before anything was asked.
export const landsAt = (row, way) =>
  ({
    into: `Inside “${row.dataset.label}”, last.`,
    before: `Before “${row.dataset.label}”.`,
    after: `After “${row.dataset.label}”.`,
  })[way]

// makes says what stands in a gap: topics in their lists, lists beside them where lists are kept, else pages.
function makes(row, way) {
  const into = row.dataset.gathers && way === 'into'
  if (into || row.dataset.topic) return 'topic'
  return row.dataset.gathers && thing.words === 'topics' ? 'topic list' : 'page'
}

// aboutTopics chooses the topics that a page is made with, and gives them as the edit takes them.
function aboutTopics(form, dialogs, changed) {
  const chosen = new Map()
  const list = form.querySelector('[data-topics]')
  const button = form.querySelector('[data-choose]')
  form.querySelector('[data-about]').hidden = false
  const draw = () => {
    list.replaceChildren(
      ...[...chosen].map(([id, label]) => {
        const off = document.createElement('button')
        off.type = 'button'
        off.textContent = `about ${label} ×`
        off.setAttribute('aria-label', `Not about ${label}`)
        off.addEventListener('click', () => {
          chosen.delete(id)
          draw()
          button.focus()
        })
        return off
      }),
    )
    changed()
  }
  button.addEventListener('click', () =>
    dialogs.pick({
      title: 'What is the page about?',
      verb: 'Choose',
      sorts: 'topic',
      take: hit => {
        chosen.set(hit.id, hit.label)
        draw()
        setTimeout(() => button.focus()) // after the dialog has given the focus back to the ladder
      },
    }),
  )
  return () =>
    [...chosen.keys()]
      .sort((a, b) => a - b)
      .map(id => `page:${id}`)
      .join('|')
}

// making opens an empty row at the gap, in sight of its neighbours, and says the address and the menu line while typing.
export function startMaking(ladder, dialogs) {
  // What is made can be of a type, and can list the pages of one; preset says so for who comes from there.
  return function make(way, preset = {}) {
    const row = ladder.selected()
    if (!row) return
    if (isRoot(row)) way = 'into'
    document.querySelector('.making')?.remove()
    const target = row.dataset.id
    const holder = document.createElement('div')
    holder.className = 'making'
    holder.setAttribute('role', 'row')
    const what = makes(row, way)
    holder.innerHTML = `<div role="gridcell"><span data-rails></span><form><span class="made"><label class="sr"
      for="making-label">Label of the new ${what}</label>
      <input id="making-label" name="label" autocomplete="off" placeholder="Label of the new ${what}">
      <label class="check"><input type="checkbox" name="live"${what === 'page' ? '' : ' checked'}> live when published</label>
      <label data-plain>of the type <select name="kind"></select></label>
      <label data-plain>lists <select name="lists"></select></label>
      <span data-about hidden><span data-topics></span> <button type="button" data-choose>About…</button></span>
      <label>also in <select name="gap"></select></label>
      <button class="primary">Make</button><button type="button" data-cancel>Cancel</button></span>
      <p aria-live="polite"></p></form></div>`
    putRow(holder, row, way)
    const form = holder.querySelector('form')
    const label = form.elements.label
    const gaps = document.querySelector('[data-gaps]')
    form.elements.gap.innerHTML = gaps?.innerHTML ?? ''
    form.elements.gap.disabled = !gaps || gaps.disabled
    if (form.elements.gap.options.length) form.elements.gap.options[0].text = 'no menu by hand'
    const kinds = [...(document.querySelector('#f-kind')?.options ?? [])].map(({ value, text }) => ({ value, text }))
    const plain = what === 'page' && kinds.length > 1
    for (const part of form.querySelectorAll('[data-plain]')) part.hidden = !plain
    if (plain) {
      const offer = (select, { value, text }, words = text) => select.append(new Option(words, value))
      for (const kind of kinds) offer(form.elements.kind, kind)
      offer(form.elements.lists, { value: '' }, 'nothing')
      for (const kind of kinds) offer(form.elements.lists, kind, `pages of the type “${kind.text}”`)
      form.elements.kind.value = preset.kind ?? 'page'
      form.elements.lists.value = preset.lists ?? ''
    }
    if (preset.lists) form.elements.live.checked = true
    const topics = what === 'page' ? aboutTopics(form, dialogs, () => ask()) : () => ''
    label.value = preset.label ?? ''
    const facts = form.querySelector('p')
    facts.textContent = landsAt(row, way)
    holder.scrollIntoView({ block: 'nearest' })
    label.focus()
    const asked = () => ({
      do: 'make',
      area: document.body.dataset.area,
      page: target,
      target,
      way,
      label: label.value,
      live: form.elements.live.checked ? 'yes' : '',
      gap: form.elements.gap.value,
      kind: form.elements.kind.value,
      lists: form.elements.lists.value,
      topics: topics(),
    })
    let soon
    const ask = () => {
      clearTimeout(soon)
      soon = setTimeout(async () => {
        if (!label.value.trim()) return
        const reply = await post('/try', asked(), true)
        facts.textContent = reply.error ?? `${reply.facts.address} · ${reply.facts.place} · ${reply.facts.menu}`
        facts.classList.toggle('fault', Boolean(reply.error))
      }, 120)
    }
    if (preset.label) ask()
    const close = () => {
      holder.remove()
      ladder.focus()
    }
    form.addEventListener('input', ask)
    form.addEventListener('keydown', event => {
      event.stopPropagation()
      if (event.key === 'Escape') close()
    })
    form.querySelector('[data-cancel]').addEventListener('click', close)
    form.addEventListener('submit', async event => {
      event.preventDefault()
      const reply = await once(form, () => post('/edit', asked()))
      if (reply) {
        holder.remove()
        ladder.goTo(reply.page, { late: reply.late })
      } else if (reply === null) label.focus()
    })
  }
}
