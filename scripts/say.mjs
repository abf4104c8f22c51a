/** Says a sentence and stops: for what the person has to do something about. */
export class Stop extends Error {}

export function say(line) {
  process.stdout.write(`${line}\n`)
}

/** Runs a script's main function; a Stop ends it with its sentence, never with a stack. */
export async function runScript(main) {
  try {
    await main()
  } catch (error) {
    if (error instanceof Stop) process.stderr.write(`${error.message}\n`)
    else if (error?.code === 'ENOSPC')
      process.stderr.write('The disk is full. Free some space and start again; nothing was lost.\n')
    else process.stderr.write(`${error?.stack ?? error}\n`)
    process.exit(1)
  }
}
