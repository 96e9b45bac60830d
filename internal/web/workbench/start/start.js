// The first screen: what waits, and the ways to where one was.
import { rowless } from '../desk/desk.js'

export const startStart = () => rowless(() => document.querySelector('main h1')?.focus())
