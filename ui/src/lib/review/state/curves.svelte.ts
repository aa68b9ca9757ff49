import { client, unwrap, type Schemas } from '../../api/client'
import type { Desk } from './desk'

/** The curves behind a checkpoint's number: over this rep, and over the others of the set behind it. */
export class Curves {
  /** Whether the coach wants to see them; kept between clips. */
  asked = $state(localStorage.getItem('lacertus.curves') === 'yes')
  found = $state.raw<Schemas['CurvesOut'] | null>(null)
  failure = $state('')
  /** Which of several quantities is shown. */
  chosen = $state(0)
  #latest = 0

  constructor(private readonly desk: Pick<Desk, 'rep' | 'checkpoint'>) {}

  get shown(): boolean {
    return this.asked && this.desk.rep !== null && this.desk.checkpoint !== null
  }

  toggle(): void {
    this.asked = !this.asked
    localStorage.setItem('lacertus.curves', this.asked ? 'yes' : 'no')
  }

  /** Ask for them anew; an answer to an older question is dropped. */
  async read(): Promise<void> {
    const { rep, checkpoint } = this.desk
    if (!this.shown || !rep || !checkpoint) return
    const latest = ++this.#latest
    const path = { rep_id: rep.id, checkpoint: checkpoint.id }
    try {
      const found = await unwrap(client.GET('/api/reps/{rep_id}/curves/{checkpoint}', { params: { path } }))
      if (latest !== this.#latest) return
      if (found.checkpoint !== this.found?.checkpoint) this.chosen = 0
      this.found = found
      this.failure = ''
    } catch (error) {
      if (latest === this.#latest) this.failure = error instanceof Error ? error.message : String(error)
    }
  }
}
