// Files: many are uploaded one after another, with how far each is; one that was stopped or failed can go on. A file is
// replaced on its sheet, and folders are made below the ladder.
import { complain, desk, once, post, refresh, say } from '../desk/desk.js'

// send uploads one file and tells how far it is; what comes back is the answer, or null where it was stopped.
function send(file, more, told) {
  const body = new FormData()
  for (const [key, value] of desk) body.set(key, value)
  for (const [key, value] of Object.entries(more)) body.set(key, value)
  body.set('file', file)
  const request = new XMLHttpRequest() // fetch does not tell how far it is
  const done = new Promise(resolve => {
    request.upload.addEventListener('progress', event => told(event.loaded / event.total))
    request.addEventListener('abort', () => resolve(null))
    request.addEventListener('error', () => resolve({ error: 'It did not get through; nothing of it was kept.' }))
    request.addEventListener('load', () => {
      try {
        resolve(JSON.parse(request.responseText))
      } catch {
        resolve({ error: 'It did not get through; it may be too large. Nothing of it was kept.' })
      }
    })
  })
  request.open('POST', '/files')
  request.setRequestHeader('X-Part', 'reply')
  request.send(body)
  return { done, stop: () => request.abort() }
}

// entry is a line of the queue: the name, how far it is, and a button that stops it or has it go on.
function entry(file) {
  const line = document.createElement('li')
  const name = document.createElement('span')
  name.textContent = file.name
  const far = document.createElement('progress')
  far.max = 1
  far.value = 0
  far.setAttribute('aria-label', file.name)
  const button = document.createElement('button')
  button.type = 'button'
  const words = document.createElement('small')
  line.append(name, far, words, button)
  return { line, far, button, words }
}

function startQueue(ladder) {
  const waiting = []
  let running = null
  let last = null
  async function next() {
    if (running || !waiting.length) return
    const one = waiting.shift()
    const { file, view, parent } = one
    view.button.textContent = 'Stop'
    view.words.textContent = ''
    running = send(file, { parent }, part => (view.far.value = part))
    view.button.onclick = () => running?.stop()
    const reply = await running.done
    running = null
    const again = words => {
      view.far.value = 0
      view.words.textContent = words
      view.button.textContent = 'Go on'
      view.button.onclick = () => {
        waiting.push(one)
        next()
      }
    }
    if (!reply) again('Stopped.')
    else if (reply.error) again(reply.error)
    else {
      view.line.remove()
      last = reply
      say(reply.said)
    }
    if (waiting.length) return next()
    if (last) await ladder.goTo(last.page)
    last = null
    await refresh()
  }
  return (files, parent) => {
    const queue = document.querySelector('[data-queue]')
    for (const file of files) {
      const view = entry(file)
      view.button.textContent = 'Leave out'
      const one = { file, view, parent }
      view.button.onclick = () => {
        waiting.splice(waiting.indexOf(one), 1)
        view.line.remove()
      }
      queue.append(view.line)
      waiting.push(one)
    }
    next()
  }
}

export function startFiles(ladder) {
  const enqueue = startQueue(ladder)
  const place = () => document.querySelector('[data-uploading]')?.dataset.parent ?? ''
  document.addEventListener('change', async event => {
    if (event.target.matches('[data-uploading] input')) {
      enqueue([...event.target.files], place())
      event.target.value = ''
    }
    const { replace } = event.target.dataset
    if (!replace || !event.target.files.length) return
    const reply = await send(event.target.files[0], { replace }, () => {}).done
    event.target.value = ''
    if (reply.error) return complain(reply)
    say(reply.said)
    await refresh()
  })
  document.addEventListener('click', async event => {
    if (!event.target.closest('[data-withdraw]')) return
    const reply = await post('/files/withdraw', { page: desk.get('page'), sure: 'yes' })
    if (reply) await refresh()
  })
  if (document.body.dataset.area === 'files') {
    const carries = event => event.dataTransfer?.types.includes('Files')
    document.addEventListener('dragover', event => carries(event) && event.preventDefault())
    document.addEventListener('drop', event => {
      if (!carries(event) || !document.querySelector('[data-uploading]')) return
      event.preventDefault()
      enqueue([...event.dataTransfer.files], event.target.closest('[data-id]')?.dataset.id ?? place())
    })
  }
  document.addEventListener('submit', async event => {
    const form = event.target.closest('[data-new-folder]')
    if (!form) return
    event.preventDefault()
    const asked = { do: 'make-folder', page: desk.get('page') ?? '', label: form.elements.label.value }
    const reply = await once(form, () => post('/edit', asked))
    if (!reply) return
    form.reset()
    await ladder.goTo(reply.page, { late: reply.late })
  })
}
