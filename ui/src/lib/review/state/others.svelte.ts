import { client, unwrap, windowName } from '../../api/client'
import type { Bench } from './bench.svelte'

const EVERY_MS = 1500

/** Shows what others change in the same review, in another window or at another desk, as they do it. */
export class Others {
  /** Who changed it last, where that was somebody else or another window. */
  told = $state('')

  constructor(private readonly bench: Pick<Bench, 'review' | 'saving' | 'refresh' | 'tell'>) {}

  /** Look now and then while the page is seen; returns what ends it. */
  watch(): () => void {
    let under = false
    const look = async () => {
      if (under || document.hidden || this.bench.saving) return
      under = true
      try {
        await this.#look()
      } finally {
        under = false
      }
    }
    const timer = setInterval(() => void look(), EVERY_MS)
    return () => clearInterval(timer)
  }

  async #look(): Promise<void> {
    const { review } = this.bench
    const asked = { params: { path: { review_id: review.id }, header: { 'X-Window': windowName() } } }
    try {
      const last = await unwrap(client.GET('/api/reviews/{review_id}/revision', asked))
      if (last.revision <= this.bench.review.revision || this.bench.saving) return
      await this.bench.refresh()
      this.told = last.by ?? ''
    } catch {
      // Whether others change something is asked again soon; what is saved tells when the server is away.
    }
  }
}
