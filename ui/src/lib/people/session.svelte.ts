import { ApiError, client, unwrap, type Schemas } from '../api/client'

/** Who is signed in. */
class Session {
  coach = $state<Schemas['CoachOut'] | null>(null)
  known = $state(false)

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
    this.coach = await unwrap(client.POST('/api/session', { body: { email, password, code } }))
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

  /** Ask for a new sign-in when the server says that nobody is signed in. */
  noticed(error: unknown): void {
    if (error instanceof ApiError && error.status === 401) this.coach = null
  }
}

export const session = new Session()
