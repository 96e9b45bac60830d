// The sheet saves a field when it is left, and the text when the editor is. A refusal leaves what was typed.
import { address, calm, complain, get, inTurn, once, onRefresh, post, refresh, say, thing, ofPages } from './desk.js'
import { makeEditor } from './editor.js'
import { takePictures, tools } from './editortools.js'
import { fold } from './groups.js'

let editors = [] // that stand on the sheet, each with its holder and whether it was edited
let saving = Promise.resolve() // the field that was left last

const own = '[data-fields] :is(input, textarea, select)[data-old]'

// stood is what a field held when it was brought here.
const stood = field =>
  field.matches('select')
    ? ([...field.options].find(o => o.defaultSelected) ?? field.options[0])?.value
    : field.defaultValue

// unsaved says whether something was typed that the draft does not hold yet.
const unsaved = () =>
  editors.some(e => e.dirty) ||
  [...document.querySelectorAll(own)].some(
    field => field.dataset.saving || field.getAttribute('aria-invalid') === 'true' || field.value !== stood(field),
  )

// leave leaves the field or text that is being typed in, and waits until the draft holds it. It gives false, and goes back
// to the field, where that was refused: then nobody should go on.
export async function leave() {
  const field = document.activeElement
  if (field?.matches?.(own)) field.blur()
  await saving
  const refused = document.querySelector('[data-fields] [aria-invalid="true"]')
  if (refused) {
    complain({
      error: refused.dataset.fault || 'A field holds what could not be taken. Mend it, or press Escape in it.',
    })
    refused.focus()
    return false
  }
  return flush()
}

export function startSheet(ladder) {
  const pane = document.querySelector('.pane-sheet')
  const sheet = () => pane.querySelector('[data-sheet]')

  async function save(id, field, old, value) {
    return post(thing.edit, { do: 'field', [thing.key]: id, field, old, new: value })
  }
  // A field that was refused is sent again each time it is left; a conflict is decided so, for what was typed.
  const saveInput = input => (saving = saved(input))
  async function saved(input) {
    input.dataset.saving = 'yes'
    const reply = await post(
      thing.edit,
      {
        do: input.dataset.op ?? input.form.dataset.op ?? 'field',
        [thing.key]: sheet().dataset.sheet,
        field: input.name,
        row: input.dataset.row ?? '',
        old: input.dataset.old,
        new: input.dataset.before ? `${input.dataset.before}\n${input.value}` : input.value,
      },
      true,
    )
    delete input.dataset.saving
    input.setAttribute('aria-invalid', String(Boolean(reply.error)))
    input.dataset.fault = reply.error ?? ''
    if (!reply.error) {
      say(reply.said ?? '')
      await refresh()
      return
    }
    if (reply.conflict) {
      input.dataset.old = reply.theirs ?? ''
      reply.error +=
        ` Yours: “${reply.mine ?? ''}”. Now there: “${reply.theirs ?? ''}”. Yours is still in the field: leave the field ` +
        'once more to keep it, or press Escape to take what is there.'
    }
    complain(reply)
  }
  // giveBack puts back the value that stood, so that nothing is saved when the field is left.
  function giveBack(field) {
    field.value = stood(field)
    field.setAttribute('aria-invalid', 'false')
    field.dispatchEvent(new Event('input', { bubbles: true }))
    calm()
  }
  pane.addEventListener('change', event => {
    const input = event.target
    if (input.closest('[data-fields]') && input.name) saveInput(input)
  })
  pane.addEventListener('focusin', event => {
    if (event.target.matches('[data-fields] [aria-invalid="true"]')) event.target.dataset.again = 'yes'
  })
  pane.addEventListener('focusout', event => {
    const input = event.target
    if (input.dataset.again !== 'yes') return
    delete input.dataset.again
    if (input.getAttribute('aria-invalid') === 'true') saveInput(input)
  })
  pane.addEventListener('keydown', event => {
    if (event.key === 'Escape' && !event.defaultPrevented) {
      delete event.target.dataset.again
      const refused = event.target.getAttribute('aria-invalid') === 'true'
      if (event.target.matches(own)) giveBack(event.target)
      ladder.focus()
      if (refused) refresh()
    }
    if (
      event.key === 'Enter' &&
      !event.ctrlKey &&
      !event.metaKey &&
      event.target.matches('input') &&
      event.target.closest('[data-fields]')
    ) {
      event.preventDefault()
      event.target.blur()
      ladder.focus()
    }
  })
  pane.addEventListener('focusout', event => {
    if (event.target.matches('[data-position] input')) ladder.gap?.()
  })
  pane.addEventListener('submit', async event => {
    event.preventDefault()
    if (event.target.matches('[data-position]')) {
      ladder.gap?.()
      await ladder.act({
        do: 'position',
        [thing.key]: sheet().dataset.sheet,
        position: event.target.elements.position.value,
      })
    }
  })
  // A page in the bin comes back, or its addresses lead elsewhere.
  pane.addEventListener('click', async event => {
    const { restore, leads, to } = event.target.closest('button')?.dataset ?? {}
    if (restore) ladder.act({ do: 'restore', page: restore })
    if (leads && (await post('/edit', { do: 'leads', page: leads, new: to }))) await refresh()
  })
  pane.addEventListener('submit', async event => {
    const of = event.target.dataset.leadsForm
    if (!of) return
    event.preventDefault()
    if (await post('/edit', { do: 'leads', page: of, address: event.target.elements.address.value })) await refresh()
  })
  // Several go to positions together.
  const manyTo = form => ({ do: 'position', ...ladder.marking.form(), position: form.elements.position.value })
  pane.addEventListener('input', async event => {
    const form = event.target.closest('[data-many-position]')
    if (!form) return
    const reply = await post(thing.attempt, manyTo(form), true)
    form.querySelector('[data-many-facts]').textContent = reply.error ?? reply.facts.place
    form.querySelector('button').hidden = Boolean(reply.error)
  })
  pane.addEventListener('submit', event => {
    if (!event.target.matches('[data-many-position]')) return
    event.preventDefault()
    ladder.act(manyTo(event.target))
  })
  // A sort rule and a position are shown before they are used.
  const sorting = select => ({ do: 'sort', page: sheet().dataset.sheet, new: select.value })
  pane.addEventListener('input', async event => {
    if (event.target.matches('[data-sort] select')) {
      const form = event.target.form
      const reply = await post('/try', sorting(event.target), true)
      form.querySelector('[data-sort-facts]').textContent =
        reply.error ?? `${reply.facts.place}. ${reply.facts.changes.join(' ')}`
      form.querySelector('button').hidden = Boolean(reply.error) || event.target.value === event.target.dataset.old
    }
    if (event.target.matches('[data-position] input')) {
      const reply = await post(
        thing.attempt,
        { do: 'position', [thing.key]: sheet().dataset.sheet, position: event.target.value },
        true,
      )
      pane.querySelector('[data-position-facts]').textContent = reply.error ?? reply.facts.place
      ladder.gap?.(event.target.value, reply.facts?.place)
    }
  })
  pane.addEventListener('submit', async event => {
    if (!event.target.matches('[data-sort]')) return
    if (await post('/edit', sorting(event.target.elements.sort))) await refresh()
  })
  pane.addEventListener('click', event => {
    const button = event.target.closest('[data-field-set]')
    if (button) inTurn(() => press(button))
  })
  async function press(button) {
    const had = document.activeElement === button
    const reply = await save(sheet().dataset.sheet, button.dataset.fieldSet, button.dataset.old, button.dataset.new)
    if (!reply) return
    await refresh()
    if (!had) ladder.focus()
  }

  // Who can look after a page is asked for when somebody is about to choose.
  pane.addEventListener('focusin', async event => {
    const people = event.target.querySelector?.('[data-people]:not([data-asked])')
    if (!people) return
    people.dataset.asked = 'yes'
    const { hits = [] } = await get('/owners')
    const there = [...people.children].map(option => option.value)
    people.append(...hits.filter(hit => !there.includes(hit.key)).map(hit => new Option(hit.label, hit.key)))
  })

  // A page is put into a menu here, in sight of its neighbours, or taken out of one.
  const gap = choice => {
    const [way, at] = choice.split(':')
    return {
      do: 'put',
      shows: `page:${sheet().dataset.sheet}`,
      ...(way === 'menu' ? { to: at, target: '' } : { target: at, way }),
    }
  }
  pane.addEventListener('input', async event => {
    if (!event.target.matches('[data-put-in-menu] select')) return
    const form = event.target.form
    form.querySelector('button').hidden = !event.target.value
    const facts = form.querySelector('[data-gap-facts]')
    if (!event.target.value) {
      facts.textContent = ''
      return
    }
    const reply = await post('/menus/try', gap(event.target.value), true)
    facts.textContent = reply.error ?? `${reply.facts.place}. ${reply.facts.changes[0] ?? ''}`
  })
  pane.addEventListener('submit', async event => {
    if (!event.target.matches('[data-put-in-menu]')) return
    const form = event.target
    if (await once(form, () => post('/menus/edit', gap(form.elements.gap.value)))) await refresh()
  })
  pane.addEventListener('click', async event => {
    const take = event.target.closest('[data-take-item]')
    if (take && (await post('/menus/edit', { do: 'take', item: take.dataset.takeItem }))) await refresh()
  })

  // mount makes an editor in each holder of the sheet that has none; those whose holder is gone go.
  async function mount() {
    const holders = [...pane.querySelectorAll('[data-editor]')]
    if (editors.some(e => !holders.includes(e.holder))) {
      await flush()
      for (const e of editors) if (!holders.includes(e.holder)) e.destroy()
      editors = editors.filter(e => holders.includes(e.holder))
    }
    for (const holder of holders) if (!editors.some(e => e.holder === holder)) await mountIn(holder)
  }
  async function mountIn(holder) {
    const { source, of, field } = holder.dataset
    const asked = of ? { of } : { page: holder.closest('[data-sheet]').dataset.sheet, ...(field ? { field } : {}) }
    const response = await fetch(address(source ?? '/text', asked), { headers: { 'X-Part': 'reply' } })
    if (!response.ok || !holder.isConnected || editors.some(e => e.holder === holder)) return
    const content = await response.text()
    if (!holder.isConnected || editors.some(e => e.holder === holder)) return
    holder.replaceChildren()
    const made = makeEditor(holder, content, {
      name: holder.dataset.name ?? (of ? 'Text of the block' : 'Text of the page'),
      tell: say,
      files: ofPages ? pictures => takePictures(made, pictures) : null,
      onUpdate: () => {
        made.dirty = true
        holder.dispatchEvent(new CustomEvent('written', { bubbles: true }))
      },
      onBlur: ({ event }) => {
        if (!holder.contains(event.relatedTarget)) flush()
      },
    })
    made.holder = holder
    made.of = sheet().dataset.sheet
    made.field = field ?? 'text'
    made.old = holder.dataset.old
    made.dirty = false
    editors.push(made)
    if (made.isEditable) holder.prepend(tools(made, how => ladder.pick(how), 'wide' in holder.dataset))
  }
  onRefresh(mount)
  fold(pane)
  mount()
  addEventListener('beforeunload', event => {
    if (unsaved()) event.preventDefault()
  })
}

// flush saves the texts that were edited. It gives false where one could not be saved.
export async function flush() {
  for (const mine of editors.filter(e => e.dirty)) if (!(await saveText(mine))) return false
  return true
}

async function saveText(mine) {
  mine.dirty = false
  const html = mine.isEmpty ? '' : mine.getHTML()
  const reply = await post(
    thing.edit,
    { do: ofPages ? 'field' : 'text', [thing.key]: mine.of, field: mine.field, old: mine.old, new: html },
    true,
  )
  if (reply.error) {
    mine.dirty = true
    if (reply.conflict) {
      const { old } = mine
      mine.old = reply.theirs ?? ''
      reply.error +=
        ' Your text is still in the editor: leave it once more to keep yours, or open the page anew to take what is there.'
      if (ofPages)
        reply.way = {
          words: 'Paragraph by paragraph…',
          href: address('/versions', { page: mine.of, field: mine.field, base: old, was: reply.mine, is: mine.old }),
          before: () => (mine.dirty = false), // it is kept, and looked at there
        }
    }
    complain(reply)
    return false
  }
  say(reply.said ?? '')
  mine.holder.dataset.kept = 'yes'
  await refresh()
  delete mine.holder.dataset.kept
  mine.old = mine.holder.dataset.old
  return true
}
