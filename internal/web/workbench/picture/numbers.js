// The numbers of the site: what is still counted in the background comes when it is there.
import { rowless, untilCounted } from '../desk/desk.js'

export function startNumbers() {
  untilCounted()
  return rowless(() => document.querySelector('main h1')?.focus())
}
