// The combo box that finds targets: pages, and where it may, files, addresses elsewhere and links that lead to no page. Whoever
// uses it hears which hit is marked and which is taken; what a hit means is the server's to say.
import Alpine from '@alpinejs/csp'
import { get } from './desk.js'

let count = 0

export function startCombos() {
  Alpine.data('combo', () => ({
    words: '',
    hits: [],
    at: 0,
    none: '',
    list: '',
    source: '/find',
    get some() {
      return this.hits.length > 0
    },
    get open() {
      return String(this.hits.length > 0)
    },
    get active() {
      return this.hits.length ? this.hits[this.at].at : null
    },
    init() {
      this.list = `found-${++count}`
      this.$refs.q.setAttribute('aria-label', this.$root.dataset.label ?? 'Label or address')
      this.$root.combo = this
      if (this.$root.dataset.sorts) this.search() // what can be chosen without knowing its name
      this.$watch('words', () => {
        clearTimeout(this.soon)
        this.disarm()
        this.soon = setTimeout(() => this.search(), 100)
      })
      this.$refs.q.addEventListener('keydown', event => {
        const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
        if (step && this.hits.length) {
          event.preventDefault()
          this.mark((this.at + step + this.hits.length) % this.hits.length)
        }
        if (event.key === 'Enter' && (this.hits.length || this.words)) {
          event.preventDefault()
          event.stopPropagation()
          this.hits.length ? this.take() : (this.wanted = true)
        }
      })
    },
    reset({ source = '/find', sorts = this.$root.dataset.sorts ?? '' } = {}) {
      Object.assign(this, { source, words: '', hits: [], none: '' })
      this.$root.dataset.sorts = sorts
      if (sorts || source !== '/find') this.search()
    },
    async search() {
      const asked = this.words
      const reply = await get(this.source, { q: asked, sorts: this.$root.dataset.sorts ?? '' })
      if (asked !== this.words) return
      this.hits = (reply.hits ?? []).map((hit, i) => ({ ...hit, at: `${this.list}-${i}`, on: 'false' }))
      this.none = this.hits.length || !asked ? '' : (reply.error ?? 'Nothing has that label or address.')
      if (this.hits.length) this.mark(0)
      if (this.wanted && this.hits.length) this.take()
      this.wanted = false
    },
    // disarm lets go of what was found for other words: nothing is marked until the answer is there.
    disarm() {
      this.hits = []
      this.wanted = false
      this.$root.dispatchEvent(new CustomEvent('combo:none', { bubbles: true }))
    },
    put(hit) {
      this.hits = [{ ...hit, at: `${this.list}-0`, on: 'true' }]
      this.mark(0)
      this.take()
    },
    mark(at) {
      this.at = at
      this.hits = this.hits.map((hit, i) => ({ ...hit, on: String(i === at) }))
      this.$root.dispatchEvent(new CustomEvent('combo:mark', { bubbles: true, detail: this.hits[at] }))
    },
    choose(event) {
      const key = event.target.closest('[data-hit]').dataset.hit
      this.mark(this.hits.findIndex(hit => hit.key === key))
      this.$root.dispatchEvent(new CustomEvent('combo:press', { bubbles: true, detail: this.hits[this.at] }))
    },
    take() {
      if (this.hits.length)
        this.$root.dispatchEvent(new CustomEvent('combo:take', { bubbles: true, detail: this.hits[this.at] }))
    },
  }))
  Alpine.start()
}
