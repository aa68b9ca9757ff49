import { client, unwrap, windowName } from '../../api/client'
import type { Bench } from './bench.svelte'
import type { Wire } from './live.svelte'

const EVERY_MS = 1500
const AGAIN_MS = 10_000
const OPEN = 1

/** What the server tells: the number of the newest change, and whose it is where that is another window. */
interface Newest {
  revision: number
  by: string | null
}

/**
 * Shows what others change in the same review, in another window or at another desk, as they do it. The server tells it over a
 * WebSocket; where there is none, it is asked now and then.
 */
export class Others {
  /** Who changed it last, where that was somebody else or another window. */
  told = $state('')
  #wire: Wire | null = null
  #newest: Newest | null = null
  #tried = -AGAIN_MS
  #under = false

  constructor(
    private readonly bench: Pick<Bench, 'review' | 'saving' | 'refresh' | 'tell'>,
    private readonly connect: (review: string) => Wire = (review) => new WebSocket(address(review)),
    private readonly now: () => number = () => performance.now(),
  ) {}

  /** Watch while the page is seen; returns what ends it. */
  watch(): () => void {
    this.#open()
    const timer = setInterval(() => void this.look(), EVERY_MS)
    return () => {
      clearInterval(timer)
      this.#wire?.close()
      this.#wire = null
    }
  }

  /** Take over what is newer than what is shown, unless something is being saved: its answer brings the newest. */
  async look(): Promise<void> {
    if (this.#under || document.hidden || this.bench.saving) return
    this.#under = true
    try {
      if (this.#wire?.readyState !== OPEN) {
        this.#newest = await this.#asked()
        if (this.now() - this.#tried >= AGAIN_MS) this.#open()
      }
      const newest = this.#newest
      if (!newest || newest.revision <= this.bench.review.revision || this.bench.saving) return
      await this.bench.refresh()
      this.told = newest.by ?? ''
    } catch {
      // Whether others change something is asked again soon; what is saved tells when the server is away.
    } finally {
      this.#under = false
    }
  }

  #open(): void {
    this.#tried = this.now()
    const wire = this.connect(this.bench.review.id)
    wire.onmessage = (event) => {
      this.#newest = JSON.parse(event.data) as Newest
      void this.look()
    }
    wire.onclose = () => {
      if (this.#wire === wire) this.#wire = null
    }
    this.#wire = wire
  }

  #asked(): Promise<Newest> {
    const params = { path: { review_id: this.bench.review.id }, header: { 'X-Window': windowName() } }
    return unwrap(client.GET('/api/reviews/{review_id}/revision', { params }))
  }
}

function address(review: string): string {
  const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
  return `${scheme}://${location.host}/api/reviews/${review}/changes?window=${encodeURIComponent(windowName())}`
}
