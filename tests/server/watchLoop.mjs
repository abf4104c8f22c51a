// Runs in the process of the server: tells on a port how long its event loop has stood still at most since it was
// asked last, ms. Asked for `/130` it first makes it compute for 130 ms, to see that it sees it.
//
// What counts is the time its thread has computed between two turns of the loop: on a machine that is busy with
// other things it may be kept from computing for longer, for which the server can do nothing.
import { readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { isMainThread } from 'node:worker_threads'

/** How long the first thread of this process has computed, ms; as the Linux kernel counts it. */
const computed = () => Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'utf8').split(' ')[0]) / 1e6

if (isMainThread && process.argv[1]?.endsWith('.output/server/index.mjs')) {
  let last = computed()
  let most = 0
  setInterval(() => {
    const now = computed()
    most = Math.max(most, now - last)
    last = now
  }, 1).unref()
  createServer((request, answer) => {
    const until = computed() + Number(request.url.slice(1))
    while (computed() < until);
    // once what was just done has been counted
    setTimeout(() => {
      answer.end(String(most))
      most = 0
    }, 5)
  })
    .listen(Number(process.env.TINKER_LOOP_PORT), '127.0.0.1')
    .unref()
}
