import type { Change } from '../../api/client'
import type { Act } from './changes'

interface Desk {
  readonly finished: boolean
  /** The number of the newest change of the review that is on screen. */
  readonly revision: number
  send(changes: readonly Change[], seen: number): void
}

/** An act with the number that was on screen as it was done: what is changed by others after it, they changed meanwhile. */
interface Done {
  act: Act
  seen: number
}

/** What was done on the bench, to be taken back and done again; over what others changed since only after asking. */
export class History {
  #done = $state.raw<Done[]>([])
  #undone = $state.raw<Done[]>([])

  constructor(private readonly desk: Desk) {}

  get canUndo(): boolean {
    return this.#done.length > 0
  }
  get canRedo(): boolean {
    return this.#undone.length > 0
  }

  act(act: Act): void {
    if (this.desk.finished) return
    const seen = this.desk.revision
    this.#done = [...this.#done, { act, seen }]
    this.#undone = []
    this.desk.send(act.forward, seen)
  }
  undo(): void {
    const last = this.#done.at(-1)
    if (!last || this.desk.finished) return
    this.#done = this.#done.slice(0, -1)
    this.#undone = [...this.#undone, { act: last.act, seen: this.desk.revision }]
    this.desk.send(last.act.backward, last.seen)
  }
  redo(): void {
    const last = this.#undone.at(-1)
    if (!last || this.desk.finished) return
    this.#undone = this.#undone.slice(0, -1)
    this.#done = [...this.#done, { act: last.act, seen: this.desk.revision }]
    this.desk.send(last.act.forward, last.seen)
  }
}
