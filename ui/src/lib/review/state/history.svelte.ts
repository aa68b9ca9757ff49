import type { Change } from '../../api/client'
import type { Act } from './changes'

/** What was done on the bench, to be taken back and done again. */
export class History {
  #done = $state.raw<Act[]>([])
  #undone = $state.raw<Act[]>([])

  constructor(private readonly desk: { readonly finished: boolean; send(changes: readonly Change[]): void }) {}

  get canUndo(): boolean {
    return this.#done.length > 0
  }
  get canRedo(): boolean {
    return this.#undone.length > 0
  }

  act(act: Act): void {
    if (this.desk.finished) return
    this.#done = [...this.#done, act]
    this.#undone = []
    this.desk.send(act.forward)
  }
  undo(): void {
    const act = this.#done.at(-1)
    if (!act || this.desk.finished) return
    this.#done = this.#done.slice(0, -1)
    this.#undone = [...this.#undone, act]
    this.desk.send(act.backward)
  }
  redo(): void {
    const act = this.#undone.at(-1)
    if (!act || this.desk.finished) return
    this.#undone = this.#undone.slice(0, -1)
    this.#done = [...this.#done, act]
    this.desk.send(act.forward)
  }
}
