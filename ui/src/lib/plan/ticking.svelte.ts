import { aheadBy, type Told } from './clock'

/** The time of this device, read five times a second, and how far it is ahead of the server’s. */
export class Ticking {
  here = $state(Date.now() / 1000)
  ahead = $state(0)

  /** The server told its time. */
  told(clock: Told): void {
    this.here = Date.now() / 1000
    this.ahead = aheadBy(clock, this.here)
  }

  /** Read the time from now on; returns what ends it. */
  start(): () => void {
    const timer = setInterval(() => (this.here = Date.now() / 1000), 200)
    return () => clearInterval(timer)
  }
}
