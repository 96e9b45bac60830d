// The drafts area: each form says what it does to the draft at hand; the screen is loaded again with the answer said.
import { address, complain, desk, post, say } from '../desk/desk.js'
import { startMoments } from '../desk/moments.js'

export function startDrafts() {
  const said = sessionStorage.getItem('said')
  if (said) {
    say(said)
    sessionStorage.removeItem('said')
  }
  startMoments()
  const sure = document.querySelector('[data-sure]')

  async function send(path, form, to) {
    const reply = await post(path, form, true)
    if (reply.error) {
      complain(reply)
      return
    }
    sessionStorage.setItem('said', reply.said ?? '')
    if (reply.draft) desk.set('draft', reply.draft)
    location = to?.(reply) ?? address('/drafts')
  }
  document.addEventListener('submit', event => {
    event.preventDefault()
    const form = event.target
    const values = Object.fromEntries(new FormData(form))
    if (form.dataset.draftDo) send(`/drafts/${form.dataset.draftDo}`, values)
    if (form.dataset.leadsForm) send('/edit', { do: 'leads', page: form.dataset.leadsForm, address: values.address })
    if ('sureForm' in form.dataset) send('/bin/empty', { pages: sure.dataset.pages, sure: 'yes' })
  })
  document.addEventListener('change', event => {
    if (event.target.dataset.share)
      post('/drafts/share', { account: event.target.dataset.share, on: event.target.checked ? 'yes' : 'no' })
  })
  document.addEventListener('click', event => {
    const button = event.target.closest('button')
    if (!button) return
    const { takeBack, restore, fetch, leads, to, emptyBin, count } = button.dataset
    const tree = reply => {
      desk.set('page', reply.page)
      return address('/tree')
    }
    if (takeBack) send('/take-back', { revision: takeBack }, tree)
    if (restore) send('/edit', { do: 'restore', page: restore }, tree)
    if (fetch) send('/drafts/fetch', { thrown: fetch })
    if (leads) send('/edit', { do: 'leads', page: leads, new: to })
    if (button.dataset.showNoMore) send('/drafts/show-no-more', { link: button.dataset.showNoMore })
    if ('unplan' in button.dataset) send('/drafts/plan', { moment: '' })
    if ('throw' in button.dataset)
      send('/drafts/throw', {}, () => {
        desk.delete('draft')
        return '/drafts'
      })
    if (emptyBin) {
      sure.dataset.pages = emptyBin
      sure.querySelector('[data-sure-words]').textContent =
        `${count} ${count === '1' ? 'page goes' : 'pages go'} for good. What they said can't be brought back; their ` +
        'addresses answer “gone”. This is not a draft: it happens at once, for everybody.'
      sure.showModal()
    }
    if (event.target.closest('[data-close]')) sure.close()
  })
}
