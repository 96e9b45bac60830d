// What a person types into while a cell is open: a choice, a line with what is known offered, or a few lines.

// editorOf opens a cell. text is what was typed already, or null: the cell's own. done hears the value, or null where it
// was given up, and by how many rows and columns to go on.
export function editorOf(cell, head, text, { heard, done }) {
  const was = cell.textContent
  const offered = [...document.querySelectorAll(`[data-options-of="${head.dataset.key}"] option`)].map(o => o.value)
  const several = 'several' in head.dataset
  const isChoice = 'options' in head.dataset && !several
  const field = isChoice ? choice(offered, was, text) : words('lines' in head.dataset, text ?? was)
  field.setAttribute('aria-label', head.textContent)
  cell.replaceChildren(field)
  let over = false
  const end = (value, step) => {
    if (over) return
    over = true
    done(value, step)
  }
  if (offered.length && !isChoice) offer(field, offered, several)
  field.focus()
  if (!isChoice && text === null) field.select()
  field.addEventListener('input', heard)
  field.addEventListener('blur', () => end(field.value, null))
  field.addEventListener('keydown', event => {
    event.stopPropagation()
    const step = stepOf(event, field)
    if (event.key === 'Escape') end(null, { r: 0, c: 0 })
    else if (step) end(field.value, step)
    else return
    event.preventDefault()
  })
  return { cell, value: () => field.value, commit: () => end(field.value, null) }
}

// stepOf says where a key leads that ends typing; null for one that does not.
function stepOf(event, field) {
  const held = event.ctrlKey || event.metaKey
  if (event.key === 's' && held) return { r: 0, c: 0, take: true }
  if (event.key === 'Enter' && !held && !(event.shiftKey && field.matches('textarea')))
    return { r: event.shiftKey ? -1 : 1, c: 0 }
  if (event.key === 'Tab') return { r: 0, c: event.shiftKey ? -1 : 1 }
  return null
}

function choice(offered, was, text) {
  const field = document.createElement('select')
  const all = offered.includes(was) ? offered : [was, ...offered]
  field.append(...all.map(words => new Option(words, words)))
  const begins = all.find(words => words.toLowerCase().startsWith((text ?? '').trim().toLowerCase()))
  field.value = text && begins ? begins : was
  return field
}

function words(lines, value) {
  const field = document.createElement(lines ? 'textarea' : 'input')
  if (lines) field.rows = 4
  field.value = value
  return field
}

// offer keeps a list of what is known below a field; of several, for the last one that is typed.
function offer(field, offered, several) {
  const list = document.createElement('datalist')
  list.id = 'cell-offered'
  const fresh = () => {
    const at = several ? field.value.lastIndexOf(';') : -1
    const before = at < 0 ? '' : `${field.value.slice(0, at + 1)} `
    const begun = field.value
      .slice(at + 1)
      .trim()
      .toLowerCase()
    const hits = offered.filter(words => words.toLowerCase().includes(begun)).slice(0, 50)
    list.replaceChildren(...hits.map(words => new Option(before + words, before + words)))
  }
  fresh()
  field.after(list)
  field.setAttribute('list', list.id)
  field.addEventListener('input', fresh)
}
