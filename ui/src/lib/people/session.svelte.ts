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

  async signIn(email: string, password: string): Promise<void> {
    this.coach = await unwrap(client.POST('/api/session', { body: { email, password } }))
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
