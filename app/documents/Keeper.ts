import { parseJson, problem, type Problem, type Read } from '@idle-tinker/core'
import { ask, Refused } from '../stores/api'

/** A document as the server gives it. */
export interface Entry<T> {
  id: string
  name: string
  version: number
  content: T
  hasPicture: boolean
  savedAt: string
}

/**
 * How far a document is kept: on the server; soon; under way; not now, as the server is away; not, as another
 * window has saved since; not, as the server will not have it.
 */
export type SaveState = 'saved' | 'waiting' | 'saving' | 'away' | 'conflict' | 'refused'

export interface Told {
  state: SaveState
  version: number
  /** Why it was refused, or is not kept in this browser. */
  problems: Problem[]
}

interface Session<T> extends Told {
  content: T
  /** What the server has. */
  stored: T
  /** Who saves: this page, as long as it has the document open. */
  writer: string
  /** How many saves it has sent. */
  sent: number
  /**
   * The last save of each writer whose answer has not come: what it or an earlier one of that writer has saved is
   * ours. More than one only where a page was closed meanwhile.
   */
  unanswered: string[]
  timer: ReturnType<typeof setTimeout> | null
  running: Promise<void> | null
}

/** What lies in the browser until the server has it. */
interface Copy {
  version: number
  content: unknown
  unanswered: string[]
}

const SAVE_AFTER = 500
const RETRY_AFTER = 2000
/** So many pages in a row that were closed without an answer are remembered. */
const MOST_WRITERS = 50

/**
 * Keeps documents of one kind: every edit at once in this browser and soon on the server, one save after
 * another. Each document goes on being kept when another has been opened. A save over another window's is
 * refused and told, never made; what a lost answer leaves open is asked again.
 */
export class Keeper<T extends object> {
  private readonly kind: string
  private readonly read: (document: unknown, where: string) => Read<T>
  private readonly saved: (entry: Entry<T>) => void
  private readonly told: (id: string, told: Told) => void
  private readonly sessions = new Map<string, Session<T>>()

  /**
   * @param saved told what the server has now, after each save
   * @param told  told whenever it changes how far a document is kept
   */
  constructor(
    kind: string,
    read: (document: unknown, where: string) => Read<T>,
    saved: (entry: Entry<T>) => void,
    told: (id: string, told: Told) => void,
  ) {
    this.kind = kind
    this.read = read
    this.saved = saved
    this.told = told
  }

  /** Takes up a document; an edit that the server has not seen comes back. @returns what stands in it */
  open(entry: Entry<T>): T {
    const known = this.sessions.get(entry.id)
    if (known && known.state !== 'saved') {
      this.tell(entry.id, known)
      return known.content
    }
    const session: Session<T> = {
      state: 'saved',
      version: entry.version,
      problems: [],
      content: entry.content,
      stored: entry.content,
      writer: crypto.randomUUID(),
      sent: 0,
      unanswered: [],
      timer: null,
      running: null,
    }
    this.sessions.set(entry.id, session)
    this.takeUp(entry, session)
    this.tell(entry.id, session)
    return session.content
  }

  /** What stands in a document that has been opened. */
  contentOf(id: string): T | undefined {
    return this.sessions.get(id)?.content
  }

  edit(id: string, content: T): void {
    const session = this.sessions.get(id)
    if (!session || content === session.content) return
    session.content = content
    this.copy(id, session)
    // after a conflict the person decides
    if (session.state !== 'conflict') this.later(id, session, SAVE_AFTER, 'waiting')
    this.tell(id, session)
  }

  /** Saves at once what waits, of one document or of all. @returns when nothing is under way any more */
  async flush(id?: string): Promise<void> {
    const ids = id === undefined ? [...this.sessions.keys()] : [id]
    await Promise.all(
      ids.map(async (one) => {
        const session = this.sessions.get(one)
        await (session?.state === 'waiting' || session?.state === 'away' ? this.run(one, session) : session?.running)
      }),
    )
  }

  /** After a conflict, or to throw away what was refused: what the server has, the copy here is gone. */
  async takeTheirs(id: string): Promise<Entry<T>> {
    const theirs = await ask<Entry<T>>(this.address(id))
    this.forget(id)
    this.saved(theirs)
    return theirs
  }

  /** Drops what is known of a document and its copy here: it was deleted, or lives on elsewhere. */
  forget(id: string): void {
    const session = this.sessions.get(id)
    if (session?.timer) clearTimeout(session.timer)
    this.sessions.delete(id)
    localStorage.removeItem(this.key(id))
  }

  private takeUp(entry: Entry<T>, session: Session<T>): void {
    const text = localStorage.getItem(this.key(entry.id))
    if (text === null) return
    const kept = parseJson(text, 'unsaved').value as Partial<Copy> | null
    // it may be from an older workshop, or not be whole
    const { value, problems } = this.read(kept?.content, 'unsaved')
    if (!value) {
      session.problems = problems
      return
    }
    if (JSON.stringify(value) === JSON.stringify(entry.content)) {
      localStorage.removeItem(this.key(entry.id))
      return
    }
    session.content = value
    session.unanswered = Array.isArray(kept?.unanswered) ? kept.unanswered : []
    const seen = Number(kept?.version) || entry.version
    // someone has saved since; it may have been one of ours whose answer was lost, which the server knows
    if (seen !== entry.version && session.unanswered.length === 0) session.state = 'conflict'
    else {
      session.version = seen
      this.later(entry.id, session, 0, 'waiting')
    }
  }

  private later(id: string, session: Session<T>, after: number, state: SaveState): void {
    session.state = state
    if (session.timer) clearTimeout(session.timer)
    session.timer = setTimeout(() => void this.run(id, session), after)
  }

  private run(id: string, session: Session<T>): Promise<void> {
    if (session.timer) clearTimeout(session.timer)
    session.timer = null
    session.running ??= this.save(id, session).finally(() => (session.running = null))
    return session.running
  }

  private async save(id: string, session: Session<T>): Promise<void> {
    while (session.content !== session.stored && this.sessions.get(id) === session) {
      const { content, version } = session
      const token = `${session.writer}.${++session.sent}`
      const after = session.unanswered
      const others = after.filter((mark) => !mark.startsWith(session.writer))
      session.unanswered = [...others, token].slice(-MOST_WRITERS)
      this.copy(id, session)
      session.state = 'saving'
      this.tell(id, session)
      try {
        const entry = await ask<Entry<T>>(this.address(id), 'PUT', { version, content, token, after })
        session.version = entry.version
        session.stored = content
        session.unanswered = []
        session.problems = []
        this.saved(entry)
      } catch (error) {
        // an answer has come: that save was not made
        if (error instanceof Refused && error.status < 500) session.unanswered = after
        this.failed(id, session, error)
        return
      }
    }
    if (this.sessions.get(id) !== session) return
    localStorage.removeItem(this.key(id))
    session.state = 'saved'
    this.tell(id, session)
  }

  private failed(id: string, session: Session<T>, error: unknown): void {
    if (this.sessions.get(id) !== session) return
    if (error instanceof Refused && error.status === 409) session.state = 'conflict'
    else if (error instanceof Refused && error.status < 500) {
      session.state = 'refused'
      session.problems = error.problems.length
        ? error.problems
        : [problem('refused', this.kind, error.message, 'Undo the last change, or make it a copy.')]
    } else this.later(id, session, RETRY_AFTER, 'away')
    this.copy(id, session)
    this.tell(id, session)
  }

  private copy(id: string, { version, content, unanswered }: Session<T>): void {
    try {
      localStorage.setItem(this.key(id), JSON.stringify({ version, content, unanswered } satisfies Copy))
    } catch {
      // the browser's store is full: the server still gets it, but until then it is only in this page
      const session = this.sessions.get(id)!
      session.problems = [
        problem(
          'browser-full',
          this.kind,
          'This browser has no room to keep unsaved changes.',
          'Leave this page open until it says that everything is saved.',
          'warning',
        ),
      ]
    }
  }

  private tell(id: string, { state, version, problems }: Session<T>): void {
    this.told(id, { state, version, problems })
  }

  private key(id: string): string {
    return `tinker.unsaved.${this.kind}.${id}`
  }

  private address(id: string): string {
    return `/api/documents/${this.kind}/${id}`
  }
}
