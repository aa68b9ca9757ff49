import { send, write, type Change, type Schemas } from '../api/client'
import { Saver, type Kept } from '../review/state/saver.svelte'

type Round = Schemas['RoundOut']
type Tap = Schemas['Tap']
interface Sent {
  taps: Tap[]
  undo: string[]
}

/** The tally of a live round: each tap is sent after the one before, and kept in the browser until the server has it. */
export class Tally {
  readonly #saver: Saver<Round>

  constructor(
    private readonly round: string,
    answered: (round: Round) => void,
    kept: Kept = localStorage,
    transport: (change: Change) => Promise<Round> = send<Round>,
    retryMs?: number,
  ) {
    this.#saver = new Saver<Round>(`lacertus.tally.${round}`, answered, () => undefined, kept, transport, retryMs)
  }

  /** The taps that the server has, with those that are on their way. */
  with(had: readonly Tap[]): Tap[] {
    let all = [...had]
    for (const change of this.#saver.waiting) {
      const { taps, undo } = change.body as Sent
      const new_ = taps.filter((tap) => !all.some((one) => one.key === tap.key))
      all = [...all, ...new_].filter((tap) => !undo.includes(tap.key))
    }
    return all
  }
  add(tap: Tap): void {
    this.#send({ taps: [tap], undo: [] })
  }
  /** Take the last of these taps back. */
  takeBack(taps: readonly Tap[]): void {
    const last = taps.at(-1)
    if (last) this.#send({ taps: [], undo: [last.key] })
  }
  /** What is to be told: that taps wait for the server, or why one was refused. */
  get words(): string {
    return this.#saver.offline || this.signedOut ? this.#saver.words : this.#saver.failure
  }
  get signedOut(): boolean {
    return this.#saver.signedOut
  }
  signedIn(): void {
    this.#saver.signedIn()
  }

  #send(body: Sent): void {
    this.#saver.add([write('post', '/api/rounds/{round_id}/taps', { round_id: this.round }, body)])
  }
}
