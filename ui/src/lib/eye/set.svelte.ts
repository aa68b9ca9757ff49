import { newId, type Schemas } from '../api/client'
import { isAway, type Answer, type Answered, type EyeDoor } from './door'

export type Asked = Schemas['EyeAskedOut']
export type Given = Schemas['Given']

/** An answer that was kept and is sent now, and what came of it. */
export interface Sent {
  key: string
  came: Answered
}
export interface Kept {
  getItem(key: string): string | null
  setItem(key: string, value: string): void
}

/** A set that is being answered: its films are fetched beforehand, and answers outlive a connection that goes away. */
export class EyeSet {
  at = $state(0)
  /** What came of each question: undefined before it is answered, null while its answer could not be sent. */
  came = $state.raw<readonly (Answered | null | undefined)[]>([])
  busy = $state(false)
  failure = $state('')
  /** What came of answers that were kept for a while. */
  late = $state.raw<readonly Sent[]>([])
  /** How many films are here. */
  fetched = $state(0)
  #films = new Map<string, string>()
  /** Which question was answered by which key. */
  #asked = new Map<string, number>()

  constructor(
    readonly asked: readonly Asked[],
    private readonly door: EyeDoor,
    private readonly kept: Kept = localStorage,
    private readonly ask: (path: string) => Promise<Blob> = fetchFilm,
  ) {
    this.came = asked.map(() => undefined)
  }

  get now(): Asked | undefined {
    return this.asked[this.at]
  }
  get result(): Answered | null | undefined {
    return this.came[this.at]
  }
  get isOver(): boolean {
    return this.at >= this.asked.length
  }
  get hits(): number {
    return this.came.filter((one) => one?.scored.hit).length
  }

  /** Fetch the films, in the order in which they are needed. */
  async fetch(): Promise<void> {
    for (const { films } of this.asked) {
      for (const { id } of films) {
        if (this.#films.has(id)) continue
        try {
          this.#films.set(id, URL.createObjectURL(await this.ask(this.door.film(id))))
        } catch {
          // It is asked of the server again when it is shown.
        }
      }
      this.fetched += 1
    }
  }

  film(id: string): string {
    return this.#films.get(id) ?? this.door.film(id)
  }

  /** Answer the question at hand. Without a connection the answer is kept and the set goes on. */
  async answer(given: Given): Promise<void> {
    const asked = this.now
    if (!asked || this.busy || this.result !== undefined) return
    this.busy = true
    this.failure = ''
    const answer: Answer = {
      key: newId(),
      films: asked.films.map((film) => film.id),
      kind: asked.question.kind,
      subject: asked.question.subject,
      given,
      at: new Date().toISOString(),
    }
    this.#asked.set(answer.key, this.at)
    try {
      this.told(await sendKept(this.door, this.kept))
      this.#note(this.at, await this.door.answer(answer))
    } catch (error) {
      if (isAway(error)) {
        keep(this.door, this.kept, [...read(this.door, this.kept), answer])
        this.#note(this.at, null)
      } else this.failure = error instanceof Error ? error.message : String(error)
    }
    this.busy = false
  }

  /** Go on without an answer, where the question cannot be asked any more. */
  skip(): void {
    this.failure = ''
    this.at += 1
  }

  next(): void {
    if (this.result !== undefined) this.skip()
  }

  close(): void {
    for (const url of this.#films.values()) URL.revokeObjectURL(url)
  }

  /** What came of answers that were kept: those of this set are told at their questions. */
  told(sent: readonly Sent[]): void {
    for (const { key, came } of sent) {
      const at = this.#asked.get(key)
      if (at !== undefined) this.#note(at, came)
    }
    this.late = [...this.late, ...sent]
  }

  #note(at: number, found: Answered | null): void {
    this.came = this.came.map((one, i) => (i === at ? found : one))
  }
}

async function fetchFilm(path: string): Promise<Blob> {
  const answer = await fetch(path)
  if (!answer.ok) throw new Error(`${answer.status}`)
  return answer.blob()
}

function read(door: EyeDoor, kept: Kept): Answer[] {
  try {
    const found: unknown = JSON.parse(kept.getItem(door.kept) ?? '[]')
    return Array.isArray(found) ? (found as Answer[]) : []
  } catch {
    return []
  }
}

function keep(door: EyeDoor, kept: Kept, answers: readonly Answer[]): void {
  kept.setItem(door.kept, JSON.stringify(answers))
}

/** Send what was kept, in its order; tells what came of it. What the server refuses is given up: the same would be refused again. */
export async function sendKept(door: EyeDoor, kept: Kept = localStorage): Promise<Sent[]> {
  const sent: Sent[] = []
  for (let left = read(door, kept); left[0]; left = read(door, kept)) {
    try {
      sent.push({ key: left[0].key, came: await door.answer(left[0]) })
    } catch (error) {
      if (isAway(error)) throw error
    }
    keep(door, kept, left.slice(1))
  }
  return sent
}

export function waitingToBeSent(door: EyeDoor, kept: Kept = localStorage): number {
  return read(door, kept).length
}
