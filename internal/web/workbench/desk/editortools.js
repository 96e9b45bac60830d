// The tools of the editor: what can be done with a text stands above it; what can be done with the table, link or picture in
// which one is, when one is there.
import { get, upload } from './desk.js'

const plain = [
  ['Heading', c => c.toggleHeading({ level: 2 }), ['heading', { level: 2 }]],
  ['Smaller heading', c => c.toggleHeading({ level: 3 }), ['heading', { level: 3 }]],
  ['Strong', c => c.toggleBold(), ['bold']],
  ['Emphasis', c => c.toggleItalic(), ['italic']],
  ['List', c => c.toggleBulletList(), ['bulletList']],
  ['Numbered', c => c.toggleOrderedList(), ['orderedList']],
]

const wide = [
  ['Smallest heading', c => c.toggleHeading({ level: 4 }), ['heading', { level: 4 }]],
  ['Quote', c => c.toggleBlockquote(), ['blockquote']],
  ['Notice', c => c.toggleWrap('notice'), ['notice']],
  ['Table', c => c.insertTable({ rows: 3, cols: 3, withHeaderRow: true }), ['table']],
]

const ofTable = [
  ['Row above', c => c.addRowBefore()],
  ['Row below', c => c.addRowAfter()],
  ['Row away', c => c.deleteRow()],
  ['Column before', c => c.addColumnBefore()],
  ['Column after', c => c.addColumnAfter()],
  ['Column away', c => c.deleteColumn()],
  ['Head row', c => c.toggleHeaderRow()],
  ['Head column', c => c.toggleHeaderColumn()],
  ['Table away', c => c.deleteTable()],
]

function tool(bar, name, press) {
  const button = document.createElement('button')
  button.type = 'button'
  button.textContent = name
  button.addEventListener('mousedown', event => event.preventDefault())
  button.addEventListener('click', press)
  bar.append(button)
  return button
}

// insertPicture puts the picture of a file where one is, and goes to its description.
function insertPicture(on, hit) {
  const { $to } = on.state.selection
  const at = $to.depth ? $to.after(1) : $to.pos // after the paragraph, list or table in which one is
  on.chain()
    .focus()
    .insertContentAt(at, { type: 'figure', attrs: { src: `page:${hit.id}`, alt: '' } })
    .run()
  const figures = on.view.dom.querySelectorAll('figure')
  const last = [...figures].find(f => f.querySelector('img').src.includes(`page=${hit.id}`))
  last?.querySelector('input')?.focus()
}

export async function takePictures(on, pictures) {
  for (const picture of pictures) {
    const hit = await upload(picture)
    if (hit) insertPicture(on, hit)
  }
}

// tools makes the bar of an editor; pick opens the picker of the screen, where there is one.
export function tools(on, pick, isWide) {
  const bar = document.createElement('div')
  bar.className = 'editor-tools'
  bar.setAttribute('role', 'toolbar')
  bar.setAttribute('aria-label', on.holder.dataset.name ?? 'Text')
  const run = how => () => how(on.chain().focus()).run()
  const shown = [...plain, ...(isWide ? wide : [])].map(([name, how, active]) => ({
    button: tool(bar, name, run(how)),
    active,
  }))
  shown.push({ button: tool(bar, 'Link', () => askLink(on, pick)), active: ['link'] })
  if (pick)
    shown.push({
      button: tool(bar, 'Picture…', () =>
        pick({
          title: 'Which picture?',
          verb: 'Put it here',
          sorts: 'file',
          moving: false,
          take: hit => setTimeout(() => insertPicture(on, hit)),
        }),
      ),
      active: ['figure'],
    })
  const more = document.createElement('div')
  more.className = 'editor-more'
  more.setAttribute('role', 'group')
  more.hidden = true
  bar.append(more)
  let here = ''
  const mark = () => {
    for (const { button, active } of shown) button.setAttribute('aria-pressed', String(on.isActive(...active)))
    const href = on.isActive('link') ? (on.getAttributes('link').href ?? '') : ''
    const now = href || (on.isActive('table') ? 'table' : '')
    if (now === here) return
    here = now
    more.replaceChildren()
    more.hidden = !now
    if (href) linkTools(more, on, href)
    else if (now) tableTools(more, on, run)
  }
  on.on('transaction', mark)
  mark()
  return bar
}

function tableTools(more, on, run) {
  more.setAttribute('aria-label', 'Table')
  for (const [name, how] of ofTable) tool(more, name, run(how))
  const label = document.createElement('label')
  label.textContent = 'Its name '
  const input = document.createElement('input')
  input.value = on.getAttributes('table').caption
  input.addEventListener('change', () => on.commands.updateAttributes('table', { caption: input.value.trim() }))
  label.append(input)
  more.append(label)
}

// linkTools says where a link leads and what this visitor gets there, and offers the parts of that page.
async function linkTools(more, on, href) {
  more.setAttribute('aria-label', 'Link')
  const words = document.createElement('span')
  words.textContent = href.startsWith('page:') ? 'Looking …' : `Leads to ${href}`
  more.append(words)
  const extend = how => () => how(on.chain().focus().extendMarkRange('link')).run()
  tool(
    more,
    'No link',
    extend(c => c.unsetLink()),
  )
  if (!href.startsWith('page:')) return
  const [, id] = /^page:(\d+)/.exec(href)
  const reply = await get('/text/parts', { of: id })
  if (!more.contains(words)) return
  words.textContent = reply.error ?? reply.said
  words.classList.toggle('fault', Boolean(reply.error))
  if (!reply.hits?.length) return
  const select = document.createElement('select')
  select.setAttribute('aria-label', 'Part of the page')
  select.append(new Option('the page from its top', ''), ...reply.hits.map(hit => new Option(hit.label, hit.key)))
  select.value = /#(.+)$/.exec(href)?.[1] ?? ''
  select.addEventListener('change', () => {
    const to = select.value ? `page:${id}#${select.value}` : `page:${id}`
    extend(c => c.setLink({ href: to }))()
  })
  more.append(select)
}

// linkTo links what is selected, or the words of what was found where nothing is.
function linkTo(on, hit) {
  const href = hit.key.replace(/^web:/, '')
  const chain = on.chain().focus().extendMarkRange('link')
  if (on.state.selection.empty && !on.isActive('link'))
    chain.insertContent({ type: 'text', text: hit.label, marks: [{ type: 'link', attrs: { href } }] }).run()
  else chain.setLink({ href }).run()
}

// The picker gives the focus back, and the key that chose is let go, before the editor goes on: hence the pauses.
// askLink chooses where a link leads: with the picker, or without one by its address.
function askLink(on, pick) {
  if (pick)
    return pick({
      title: 'Where should the link lead?',
      verb: 'Link it',
      sorts: 'web',
      moving: false,
      take: hit => setTimeout(() => linkTo(on, hit)),
    })
  return byAddress(on)
}

function byAddress(on) {
  const bar = on.holder.querySelector('.editor-tools')
  bar.querySelector('.link-form')?.remove()
  const form = document.createElement('span')
  form.className = 'link-form'
  form.innerHTML =
    '<label>Address <input type="text" placeholder="/sailings or https://…"></label> ' +
    '<button type="button">Set link</button>'
  bar.append(form)
  const input = form.querySelector('input')
  const set = form.querySelector('button')
  input.value = on.getAttributes('link').href ?? ''
  input.focus()
  set.addEventListener('click', () => {
    form.remove()
    on.chain().focus().extendMarkRange('link').setLink({ href: input.value.trim() }).run()
  })
  input.addEventListener('keydown', event => {
    if (event.key === 'Enter') {
      event.preventDefault()
      set.click()
    }
    if (event.key === 'Escape') {
      event.stopPropagation()
      event.preventDefault()
      form.remove()
      on.commands.focus()
    }
  })
}
