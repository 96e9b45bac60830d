// What a preview tells the workbench that frames it: what stands on the page, where it is scrolled, where it was led. And what it
// hears: where to scroll, what to mark. Only previews get this script.
const workbench = document.querySelector('meta[name="frame"]').content
const tell = what => parent.postMessage(what, workbench)
const base = location.pathname.split('/').slice(0, 3).join('/') // the preview's own part of every address

// The pieces of the page that say or show something of their own, in order, each as a line of words.
const pieces = [...document.body.querySelectorAll('*')].filter(says)

function says(element) {
  if (element.matches('script, style, .skip')) return false
  return (
    element.matches('img, svg, input, hr') ||
    [...element.childNodes].some(node => node.nodeType === Node.TEXT_NODE && node.data.trim())
  )
}

function line(element) {
  const own = [...element.childNodes]
    .filter(node => node.nodeType === Node.TEXT_NODE)
    .map(node => node.data.trim())
    .join(' ')
  const names = ['href', 'src', 'alt', 'title', 'target', 'aria-label', 'aria-current', 'lang']
  const facts = names.map(name => (element.getAttribute(name) ?? '').replace(base, ''))
  return [
    element.closest('.region')?.className ?? '',
    element.localName,
    element.getAttribute('class') ?? '',
    own,
    ...facts,
  ].join('\t')
}

const marks = new CSSStyleSheet()
marks.replaceSync(
  '[data-differs] { outline: 3px solid #a86b12; outline-offset: 2px; background: #ffe9b8 !important; color: #1e2b27 !important; }',
)
document.adoptedStyleSheets.push(marks)

function mark(which, show) {
  for (const element of document.querySelectorAll('[data-differs]')) delete element.dataset.differs
  const opened = new Set()
  for (const at of which) {
    const fold = pieces[at].closest('details')
    if (fold) {
      fold.open = true
      opened.add(nameOf(fold))
    }
    pieces[at].dataset.differs = ''
  }
  if (opened.size) tell({ opened: [...opened] })
  if (show && which.length) pieces[which[0]].scrollIntoView({ block: 'center' })
}

// nameOf calls what folds out by the line that it belongs to, which is the same on the other side.
const nameOf = fold => fold.closest('li')?.querySelector('a, span, summary')?.textContent.trim() ?? ''

const room = () => Math.max(1, document.documentElement.scrollHeight - innerHeight)
let asked = -1 // where the other side had this one scroll to, which is not told again
addEventListener('scroll', () => {
  if (Math.abs(scrollY - asked) <= 1) return
  asked = -1
  tell({ scrolled: scrollY / room() })
})
addEventListener('message', event => {
  if (event.origin !== workbench || event.source !== parent) return
  const { mark: which, show, scroll, open } = event.data
  if (open) for (const fold of document.querySelectorAll('details')) if (open.includes(nameOf(fold))) fold.open = true
  if (which) mark(which, show)
  if (scroll !== undefined) {
    asked = scroll * room()
    scrollTo({ top: asked, behavior: 'instant' })
  }
})
addEventListener('keydown', event => {
  if (event.key === 'Escape') tell({ leave: true })
})
if (parent !== window)
  tell({ at: location.pathname.slice(base.length) || '/', followed: document.referrer !== '', lines: pieces.map(line) })
