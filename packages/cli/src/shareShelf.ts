import { BroadcastChannel, isMainThread } from 'node:worker_threads'
import type { Arrays, Shelf } from '@idle-tinker/core'

const CHANNEL = 'what parts come to together'

/**
 * Lets the threads of a crowd work out once, together, what bodies and parts come to: each passes on
 * what it puts on its shelf, and takes over what the others have put while it waits for its files
 * to be written.
 */
export function shareShelf(shelf: Shelf): void {
  if (isMainThread) return
  const channel = new BroadcastChannel(CHANNEL)
  channel.unref()
  channel.onmessage = ({ data }: { data: [string, Arrays] }) => shelf.take(...data)
  shelf.onPut = (key, arrays) => channel.postMessage([key, compact(arrays)])
}

/** A view is sent with all of what it is a view of. */
function compact(arrays: Arrays): Arrays {
  return Object.fromEntries(
    Object.entries(arrays).map(([name, a]) => [name, a.byteLength < a.buffer.byteLength ? a.slice() : a]),
  )
}
