import { ApiError, client, unwrap, type Schemas } from '../api/client'

/** Who is signed in. */
class Session {
  coach = $state<Schemas['CoachOut'] | null>(null)
  known = $state(false)
  /** The sign-in has run out while the coach was at work: what is open stays open, and a sign-in is asked for over it. */
  lapsed = $state(false)
  readonly #waiting = new Set<() => void>()

  async read(): Promise<void> {
    try {
      this.coach = await unwrap(client.GET('/api/session'))
    } catch (error) {
      if (!(error instanceof ApiError) || error.status !== 401) throw error
      this.coach = null
    } finally {
      this.known = true
    }
  }

  /** `code` is of the second factor, for accounts that have one. */
  async signIn(email: string, password: string, code = ''): Promise<void> {
    const before = this.coach
    const now = await unwrap(client.POST('/api/session', { body: { email, password, code } }))
    // What is open, and what was not sent yet, is of the coach before: another begins anew.
    if (this.lapsed && before?.id !== now.id) return location.reload()
    this.coach = now
    this.#goOn()
  }

  get isOwner(): boolean {
    return this.coach?.role === 'owner'
  }
  /** Whether more may be done than naming clips and writing notes. */
  get mayReview(): boolean {
    return this.coach !== null && this.coach.role !== 'assistant'
  }

  async signOut(): Promise<void> {
    await unwrap(client.DELETE('/api/session'))
    this.coach = null
  }

  /** Do something whenever a coach whose sign-in had run out has signed in again; returns what ends it. */
  whenSignedIn(work: () => void): () => void {
    this.#waiting.add(work)
    return () => this.#waiting.delete(work)
  }

  /** Somebody was told that nobody is signed in: where that is so, a sign-in is asked for where the coach is. */
  async check(): Promise<void> {
    if (!this.coach || this.lapsed) return
    try {
      const { response } = await client.GET('/api/session')
      if (response.ok) return this.#goOn()
      this.lapsed = response.status === 401
    } catch {
      // The server is away by now: what it said last counts, so that what waits is not kept without a word.
      this.lapsed = true
    }
  }

  /** Check the sign-in where the server said that nobody is signed in. */
  noticed(error: unknown): void {
    if (error instanceof ApiError && error.status === 401) void this.check()
  }

  #goOn(): void {
    this.lapsed = false
    for (const work of this.#waiting) work()
  }
}

export const session = new Session()

// Whatever asks on whatever screen; wrong passwords and codes are answered with 401 too, so it is checked first.
client.use({
  onResponse({ response, schemaPath }) {
    if (response.status === 401 && schemaPath !== '/api/session') void session.check()
  },
})
