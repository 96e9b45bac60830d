// The editor of texts: what it can hold is what core keeps (docs/rules.md, 12.1), so that nothing is lost by being edited.
import { Editor, Node, mergeAttributes } from '@tiptap/core'
import Heading from '@tiptap/extension-heading'
import { Table, TableCell, TableHeader, TableRow } from '@tiptap/extension-table'
import StarterKit from '@tiptap/starter-kit'
import { address } from './desk.js'

const block = (name, tag, content, more = {}) =>
  Node.create({
    name,
    group: 'block',
    content,
    defining: true,
    parseHTML: () => [{ tag }],
    renderHTML: ({ HTMLAttributes }) => [tag, mergeAttributes(HTMLAttributes), 0],
    ...more,
  })

const Notice = block('notice', 'aside', 'block+')
const Terms = block('terms', 'dl', '(term|meaning)+')
const Term = block('term', 'dt', 'inline*', { group: '' })
const Meaning = block('meaning', 'dd', 'block+', { group: '' })

// A heading keeps the address that it was given when it was first saved.
const Headed = Heading.extend({
  addAttributes() {
    return { ...this.parent?.(), id: { default: null, keepOnSplit: false } }
  },
})

// A table has its name in a caption, which is typed in a field of its own.
const Captioned = Table.extend({
  addAttributes() {
    const words = table => table.querySelector(':scope > caption')?.textContent ?? ''
    return { ...this.parent?.(), caption: { default: '', parseHTML: words, rendered: false } }
  },
  renderHTML({ node }) {
    const { caption } = node.attrs
    return caption ? ['table', ['caption', caption], ['tbody', 0]] : ['table', ['tbody', 0]]
  },
})

const pageOf = src => /^page:(\d+)/.exec(src)?.[1]

// A picture stands in a figure with its description, which can say that it only decorates, and a caption.
const Figure = Node.create({
  name: 'figure',
  group: 'block',
  content: 'inline*',
  defining: true,
  addAttributes: () => ({ src: { default: '' }, alt: { default: '' } }),
  parseHTML() {
    const of = img => pageOf(img?.getAttribute('src') ?? '') && { src: img.getAttribute('src'), alt: img.alt }
    return [
      {
        tag: 'figure',
        getAttrs: figure => of(figure.querySelector('img')) || false,
        contentElement: figure => figure.querySelector('figcaption') ?? document.createElement('p'),
      },
      { tag: 'img', getAttrs: img => of(img) || false, contentElement: () => document.createElement('p') },
    ]
  },
  renderHTML: ({ node }) => ['figure', ['img', { src: node.attrs.src, alt: node.attrs.alt }], ['figcaption', 0]],
  addNodeView() {
    return ({ node, editor, getPos }) => {
      const dom = document.createElement('figure')
      dom.innerHTML = `<div contenteditable="false"><img alt=""><label>Description
        <input type="text" maxlength="500" placeholder="what it shows, for those who don’t see it"></label>
        <label class="check"><input type="checkbox"> only decoration</label></div><figcaption data-empty="Caption"></figcaption>`
      const [img, words, decorates] = [dom.querySelector('img'), ...dom.querySelectorAll('input')]
      const draw = of => {
        const src = address('/files/bytes', { page: pageOf(of.attrs.src), w: '480' })
        if (img.getAttribute('src') !== src) img.src = src
        if (document.activeElement !== words) words.value = of.attrs.alt
        decorates.checked = !of.attrs.alt && dom.dataset.asked !== 'yes'
        words.disabled = !editor.isEditable
        decorates.disabled = !editor.isEditable
      }
      const set = alt =>
        editor.view.dispatch(editor.state.tr.setNodeMarkup(getPos(), undefined, { ...node.attrs, alt }))
      words.addEventListener('input', () => set(words.value.trim()))
      decorates.addEventListener('change', () => {
        dom.dataset.asked = decorates.checked ? '' : 'yes'
        if (decorates.checked) set('')
        else words.focus()
      })
      draw(node)
      return {
        dom,
        contentDOM: dom.querySelector('figcaption'),
        stopEvent: event => event.target.matches?.('input'),
        ignoreMutation: mutation => !dom.querySelector('figcaption').contains(mutation.target),
        update(next) {
          if (next.type !== node.type) return false
          node = next
          draw(node)
          return true
        },
      }
    }
  },
})

const extensions = [
  StarterKit.configure({
    heading: false,
    link: {
      openOnClick: false,
      protocols: ['page', 'mailto', 'tel'],
      defaultProtocol: 'https',
      isAllowedUri: () => true,
      HTMLAttributes: { target: null, rel: null },
    },
    underline: false,
  }),
  Headed.configure({ levels: [2, 3, 4] }),
  Captioned.configure({ resizable: false }),
  TableRow,
  TableHeader,
  TableCell,
  Figure,
  Notice,
  Terms,
  Term,
  Meaning,
]

// listed turns the paragraphs that word processors paste for list items into lists.
function listed(page) {
  const items = [...page.querySelectorAll('p[style*="mso-list"]')]
  for (const p of items) {
    const numbered = /^\s*[\da-z]+[.)]/i.test(p.textContent)
    for (const sign of p.querySelectorAll('[style*="mso-list"]')) sign.remove()
    const item = page.createElement('li')
    item.append(...p.childNodes)
    const before = p.previousElementSibling
    const tag = numbered ? 'OL' : 'UL'
    const list = before?.tagName === tag && before.dataset.pasted ? before : page.createElement(tag)
    list.dataset.pasted = 'yes'
    list.append(item)
    if (list === before) p.remove()
    else p.replaceWith(list)
  }
}

// pasted makes what is pasted fit, and says what of it is left out.
export function pasted(html, tell) {
  const page = new DOMParser().parseFromString(html, 'text/html')
  listed(page)
  for (const [from, to] of [
    ['h1', 'h2'],
    ['h5, h6', 'h4'],
  ])
    for (const heading of page.querySelectorAll(from)) {
      const made = page.createElement(to)
      made.append(...heading.childNodes)
      heading.replaceWith(made)
    }
  const away = [...page.querySelectorAll('img')].filter(img => !pageOf(img.getAttribute('src') ?? ''))
  const frames = page.querySelectorAll('iframe, video, audio, object, svg, form').length
  for (const img of away) img.replaceWith(img.alt)
  const lost = [
    away.length && `${away.length} ${away.length === 1 ? 'picture' : 'pictures'} (upload them with “Picture…”)`,
    frames && `${frames} embedded ${frames === 1 ? 'part' : 'parts'}`,
  ].filter(Boolean)
  if (lost.length) tell(`Left out of what you pasted: ${lost.join(', ')}. Its words stay.`)
  return page.body.innerHTML
}

// makeEditor makes an editor in a holder. Who gives files has pictures that are pasted or dropped taken in.
export function makeEditor(holder, content, { name, tell, files, ...events }) {
  const taken = event => {
    const pictures = [...((event.clipboardData ?? event.dataTransfer)?.files ?? [])].filter(f =>
      f.type.startsWith('image/'),
    )
    if (!pictures.length || !files || event.clipboardData?.types.includes('text/html')) return false
    files(pictures)
    return true
  }
  return new Editor({
    element: holder,
    content,
    injectCSS: false,
    editable: !('locked' in holder.dataset),
    extensions,
    editorProps: {
      attributes: { role: 'textbox', 'aria-multiline': 'true', 'aria-label': name, class: 'prose' },
      transformPastedHTML: html => pasted(html, tell),
      handlePaste: (_, event) => taken(event),
      handleDrop: (_, event) => taken(event),
    },
    ...events,
  })
}
