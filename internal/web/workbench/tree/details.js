// Details of a page whose values are chosen in the picker: another page, a file, a picture.
export function startDetails(ladder, pick) {
  document.addEventListener('click', event => {
    const button = event.target.closest('[data-pick-page], [data-pick-file]')
    if (!button) return
    const { pickPage, pickFile, old, label, alternative } = button.dataset
    const page = button.closest('[data-sheet]').dataset.sheet
    const set = value => ladder.act({ do: 'field', page, field: pickPage ?? pickFile, old, new: value, stay: 'yes' })
    if (pickPage)
      pick({ title: `${label}: which page?`, verb: 'Use it', moving: false, take: hit => set(`page:${hit.id}`) })
    else
      pick({
        title: `${label}: which file?`,
        verb: 'Use it',
        moving: false,
        sorts: 'file',
        take: hit => set([hit.file ? `page/${hit.id}` : hit.key.slice(5), alternative].filter(Boolean).join('\n')),
      })
  })
}
