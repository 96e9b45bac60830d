// The site picture: its boxes are links. Arrow keys go to the box beside, above and below, plus and minus zoom, and dragging
// pans; the picture itself is drawn by the server.
export function startPicture() {
  const form = document.querySelector('[data-picture-form]')
  form.addEventListener('change', () => form.requestSubmit())
  const holder = document.querySelector('[data-zoom]')
  if (!holder) return
  const svg = holder.querySelector('svg')
  const boxes = [...svg.querySelectorAll('.box')]
  const place = box => {
    const r = box.querySelector('rect')
    return { x: +r.getAttribute('x'), y: +r.getAttribute('y'), w: +r.getAttribute('width') }
  }
  let zoom = 1
  const scale = by => {
    zoom = Math.min(16, Math.max(1, zoom * by))
    svg.style.width = `${zoom * 100}%`
  }
  for (const [i, box] of boxes.entries()) box.setAttribute('tabindex', i ? '-1' : '0')
  const picked = document.querySelector('[data-picked]')
  const way = name => picked.querySelector(`[data-way="${name}"]`)
  // tell fills the card with what the box is, and the ways on from it.
  const tell = box => {
    const { label, where, facts, into, page } = box.dataset
    picked
      .querySelector('[data-picked-words]')
      .replaceChildren(
        Object.assign(document.createElement('strong'), { textContent: label, dir: 'auto' }),
        ` ${where} · ${facts}`,
      )
    picked.querySelector('[data-picked-ways]').hidden = false
    way('into').hidden = !into
    way('into').href = into
    const tree = box.getAttribute('href')
    way('page').href = tree
    way('within').href = `${tree}&within=${page}&ask=full`
    way('preview').href = `${tree}&show=preview`
  }
  holder.addEventListener('pointerover', event => {
    const box = event.target.closest('.box')
    if (box) tell(box)
  })
  holder.addEventListener('focusin', event => {
    const now = event.target.closest('.box')
    if (!now) return
    tell(now)
    for (const box of boxes) box.setAttribute('tabindex', box === now ? '0' : '-1')
  })
  holder.addEventListener('keydown', event => {
    const now = event.target.closest('.box')
    if (event.key === '+' || event.key === '-') {
      event.preventDefault()
      scale(event.key === '+' ? 1.5 : 1 / 1.5)
      now?.scrollIntoView({ block: 'nearest', inline: 'center' })
      return
    }
    if (!now) return
    const here = place(now)
    const level = step => boxes.filter(b => place(b).y === here.y + step)
    const rowHeight = Math.min(...boxes.map(b => place(b).y).filter(Boolean))
    let to
    if (event.key === 'ArrowRight' || event.key === 'ArrowLeft') {
      const row = level(0)
      to = row[row.indexOf(now) + (event.key === 'ArrowRight' ? 1 : -1)]
    }
    if (event.key === 'ArrowUp')
      to = level(-rowHeight).find(b => place(b).x <= here.x + 0.01 && place(b).x + place(b).w >= here.x)
    if (event.key === 'ArrowDown')
      to = level(rowHeight).find(b => place(b).x >= here.x - 0.01 && place(b).x < here.x + here.w)
    if (!to && !event.key.startsWith('Arrow')) return
    event.preventDefault()
    to?.focus()
  })
  holder.addEventListener(
    'wheel',
    event => {
      if (!event.ctrlKey) return
      event.preventDefault()
      scale(event.deltaY < 0 ? 1.2 : 1 / 1.2)
    },
    { passive: false },
  )
  let from = null
  holder.addEventListener('pointerdown', event => {
    from = { x: event.clientX, left: holder.scrollLeft, moved: false }
  })
  holder.addEventListener('pointermove', event => {
    if (!from || !event.buttons) return
    if (Math.abs(event.clientX - from.x) > 4) from.moved = true
    if (from.moved) holder.scrollLeft = from.left - (event.clientX - from.x)
  })
  holder.addEventListener(
    'click',
    event => {
      if (from?.moved) event.preventDefault()
      from = null
    },
    true,
  )
  for (const button of document.querySelectorAll('[data-scale]'))
    button.addEventListener('click', () => scale(Number(button.dataset.scale)))
}
