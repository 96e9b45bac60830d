// Fields in which a moment is typed freely: beside each stands how it is read.
import { get } from './desk.js'

// moments says beside each field for a moment how what stands in it is read, while it is typed.
export function startMoments() {
  let soon
  document.addEventListener('input', event => {
    const field = event.target.closest('[data-moment]')
    const words = field?.closest('.moment')?.querySelector('[data-moment-words]')
    if (!words) return
    clearTimeout(soon)
    soon = setTimeout(async () => {
      const reply = await get('/moment', { moment: field.value, end: field.dataset.moment })
      words.textContent = reply.error ?? reply.facts.place
      words.classList.toggle('fault', Boolean(reply.error))
    }, 150)
  })
}
