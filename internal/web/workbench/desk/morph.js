// A part of the screen is brought up to date node by node, found again by its id. What the browser owns is left to it: what
// is open, what is typed and not saved yet, and what has a life of its own, like a picker or the editor of a text.
import { Idiomorph } from 'idiomorph'

export function morph(standing, fresh) {
  Idiomorph.morph(standing, [...fresh.childNodes], {
    morphStyle: 'innerHTML',
    restoreFocus: false,
    ignoreActiveValue: true,
    callbacks: {
      beforeNodeMorphed: (was, is) => was.nodeType !== Node.ELEMENT_NODE || mayChange(was, is),
      beforeAttributeUpdated: (name, of) => !(name === 'open' && of.matches('details')),
    },
  })
}

// alive are elements that a script has filled.
const alive = '[x-data], [data-editor]'

// mayChange says whether an element may become another; what may not is left, or stands anew, whole.
function mayChange(was, is) {
  if (was.dataset.kept === 'yes' && is.matches?.('[data-editor]')) {
    // it has brought this text itself
    was.dataset.old = is.dataset.old ?? ''
    return false
  }
  if (was.matches(alive) || is.matches?.(alive)) {
    const same = ['editor', 'of', 'old', 'sorts'].every(name => was.dataset[name] === is.dataset?.[name])
    if (!was.contains(document.activeElement) && !(same && was.matches('[data-editor]'))) {
      was.replaceWith(is.cloneNode(true))
    } else if (is.dataset) was.dataset.old = is.dataset.old ?? ''
    return false
  }
  // A form that somebody is in shows what comes of it; only where each field is saved by itself do the others go on.
  if (was.matches('form:not([data-fields])') && was.contains(document.activeElement)) return false
  if (was.matches('form[data-half]') && isBegun(was)) return false
  if (was.matches('[data-old]') && isTyped(was)) {
    was.dataset.old = is.dataset.old
    return false
  }
  return true
}

// isBegun says whether somebody has begun to fill a form in.
const isBegun = form =>
  [...form.elements].some(field =>
    field.matches('select')
      ? field.selectedIndex !==
        Math.max(
          0,
          [...field.options].findIndex(option => option.defaultSelected),
        )
      : field.type === 'checkbox'
        ? field.checked !== field.defaultChecked
        : field.type !== 'hidden' && field.defaultValue !== undefined && field.value !== field.defaultValue,
  )

// isTyped says whether a field holds what a person typed and the server does not know yet.
const isTyped = field =>
  field.matches('input, textarea, select') &&
  (field === document.activeElement || !!field.dataset.saving || field.getAttribute('aria-invalid') === 'true')
