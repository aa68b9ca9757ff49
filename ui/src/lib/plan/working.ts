import { client, unwrap } from '../api/client'

export const IDLE_MS = 60_000
const TELL_MS = 30_000

/** Counts how long a review is worked on: while its page is seen and was used in the last minute. */
export class Working {
  private used = 0
  private counted = 0
  private last: number

  constructor(now: number = Date.now()) {
    this.last = now
    this.used = now
  }

  /** Somebody moved, clicked or typed. */
  touch(now: number = Date.now()): void {
    this.count(now)
    this.used = now
  }

  /** Count the time since the last time; what lies more than a minute after the last touch is idle. */
  count(now: number = Date.now(), seen = true): void {
    if (seen) this.counted += Math.max(0, Math.min(now, this.used + IDLE_MS) - this.last)
    this.last = Math.max(now, this.last)
  }

  /** The seconds that are not told yet; they are told once. */
  take(): number {
    const seconds = this.counted / 1000
    this.counted = 0
    return seconds
  }

  giveBack(seconds: number): void {
    this.counted += 1000 * seconds
  }
}

const EVENTS = ['pointerdown', 'keydown', 'wheel', 'pointermove'] as const

/** Count the work on a review from now on, and tell the server every half minute; returns what ends it. */
export function countWork(review: string): () => void {
  const working = new Working()
  const touch = () => working.touch()
  const tell = async (): Promise<void> => {
    working.count(Date.now(), document.visibilityState === 'visible')
    const add_s = working.take()
    if (add_s < 1) return working.giveBack(add_s)
    try {
      const path = { params: { path: { review_id: review } } }
      await unwrap(client.PUT('/api/reviews/{review_id}/worked', { ...path, body: { add_s: Math.min(add_s, 600) } }))
    } catch {
      working.giveBack(add_s)
    }
  }
  for (const name of EVENTS) window.addEventListener(name, touch, { passive: true })
  const timer = setInterval(() => void tell(), TELL_MS)
  return () => {
    clearInterval(timer)
    for (const name of EVENTS) window.removeEventListener(name, touch)
    void tell()
  }
}
