import { ApiError, send, type Change, type Review } from '../../api/client'

const RETRY_MS = 1500

/** Where a browser keeps text from page to page; `localStorage` is one. */
export interface Kept {
  getItem(key: string): string | null
  setItem(key: string, value: string): void
  removeItem(key: string): void
}

/**
 * Sends changes one after another in the order they were made, and keeps what is not sent yet in the
 * browser, so that it survives a dropped connection, a reload and a crash.
 */
export class Saver<Answer = Review> {
  waiting = $state<Change[]>([])
  savedAt = $state<Date | null>(null)
  failure = $state('')
  offline = $state(false)
  /** Nobody is signed in any more: what waits is kept, and sent after signing in. */
  signedOut = $state(false)
  #running = false

  constructor(
    private readonly key: string,
    private readonly answered: (answer: Answer, settled: boolean) => void,
    private readonly refused: (error: unknown) => void,
    private readonly kept: Kept = localStorage,
    private readonly transport: (change: Change) => Promise<Answer> = send,
    private readonly retryMs: number = RETRY_MS,
    /** Somebody else changed the same meanwhile: whether it is saved all the same. */
    private readonly overwrite: (error: ApiError) => Promise<boolean> = () => Promise.resolve(false),
  ) {
    this.waiting = readKept(kept, key)
    if (this.waiting.length) void this.flush()
  }

  get words(): string {
    if (this.signedOut) return `Not saved yet: ${this.waiting.length} kept here, sign in to send`
    if (this.offline) return `Not saved yet: ${this.waiting.length} kept here, trying again`
    if (this.waiting.length) return 'Saving…'
    return this.savedAt
      ? `All saved ${this.savedAt.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}`
      : 'Saved as you go'
  }

  add(changes: readonly Change[]): void {
    this.waiting.push(...changes)
    this.#keep()
    void this.flush()
  }

  /** Somebody is signed in again: send what waits. */
  signedIn(): void {
    if (!this.signedOut) return
    this.signedOut = false
    void this.flush()
  }

  async flush(): Promise<void> {
    if (this.#running) return
    this.#running = true
    try {
      let next: Change | undefined
      while (!this.signedOut && (next = this.waiting[0])) await this.#sendFirst(next)
    } finally {
      this.#running = false
    }
  }

  async #sendFirst(change: Change): Promise<void> {
    try {
      const answer = await this.transport($state.snapshot(change))
      this.offline = false
      this.failure = ''
      this.savedAt = new Date()
      this.#drop()
      this.answered(answer, this.waiting.length === 0)
    } catch (error) {
      if (error instanceof ApiError && error.passing) {
        this.offline = true
        await new Promise((again) => setTimeout(again, this.retryMs))
      } else if (error instanceof ApiError && error.status === 401) {
        this.offline = false
        this.signedOut = true
      } else if (error instanceof ApiError && error.code === 'changed_meanwhile') {
        await this.#decide(change, error)
      } else {
        this.#drop()
        this.failure = error instanceof Error ? error.message : String(error)
        this.refused(error)
      }
    }
  }

  /** Save it over what somebody else changed, or let it go and show what is there now. */
  async #decide(change: Change, error: ApiError): Promise<void> {
    if (await this.overwrite(error)) {
      delete change.seen
      this.#keep()
      return
    }
    this.#drop()
    this.refused(error)
  }

  #drop(): void {
    this.waiting.shift()
    this.#keep()
  }

  #keep(): void {
    if (this.waiting.length) this.kept.setItem(this.key, JSON.stringify(this.waiting))
    else this.kept.removeItem(this.key)
  }
}

function readKept(kept: Kept, key: string): Change[] {
  try {
    const found: unknown = JSON.parse(kept.getItem(key) ?? '[]')
    return Array.isArray(found) ? (found as Change[]) : []
  } catch {
    return []
  }
}
