// What a listing asks for: the parts of its question that are picked or taken away, on the sheet of a block or of a page.
// The others are fields.
export function listingActs(ladder, dialogs, chosen) {
  const set = (field, value) => ladder.act({ do: 'listing', ...chosen(), field, new: value })
  const ask = (field, title, sorts) =>
    dialogs.pick({ title, verb: 'Use it', moving: false, sorts, take: hit => set(field, hit.id) })
  document.addEventListener('click', event => {
    const row = event.target.closest('[data-unask]')?.dataset.unask
    if (row) ladder.act({ do: 'listing', ...chosen(), field: 'unask', row })
    const key = event.target.closest('[data-unnarrow]')?.dataset.unnarrow
    if (key) set('unnarrow', key)
  })
  return {
    'listing-topic': () => ask('topic', 'About which topic?', 'topic'),
    'listing-any-topic': () => set('topic', ''),
    'listing-within': () => ask('within', 'Below which page?', ''),
    'listing-anywhere': () => set('within', ''),
  }
}
