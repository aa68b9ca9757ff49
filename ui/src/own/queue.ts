import { createStore, del, entries, set, type UseStore } from 'idb-keyval'

/** Something that was written and is on its way: where it goes, and its fields with the key that makes it one. */
export interface Act {
  to: string
  fields: Record<string, string>
}

/** How an act was answered: it is kept, it was refused with a reason, or nobody answered. */
export type Answer = { kind: 'sent' } | { kind: 'refused'; why: string } | { kind: 'away' }

export type Send = (act: Act) => Promise<Answer>

/** Send an act once. The server keeps it once however often it comes, by the key among its fields. */
export const post: Send = async ({ to, fields }) => {
  try {
    const answer = await fetch(to, {
      method: 'POST',
      headers: { accept: 'application/json' },
      body: new URLSearchParams(fields),
    })
    if (answer.ok) return { kind: 'sent' }
    if (answer.status >= 500) return { kind: 'away' }
    const told: unknown = await answer.json().catch(() => null)
    const why = told && typeof told === 'object' && 'message' in told ? String(told.message) : String(answer.status)
    return { kind: 'refused', why }
  } catch {
    return { kind: 'away' }
  }
}

/** A place for acts that are not sent yet. */
export interface Kept {
  put(key: string, act: Act): Promise<void>
  drop(key: string): Promise<void>
  all(): Promise<[string, Act][]>
}

/** On the device, where the browser has room for it: what is kept outlives the page. */
export function onDevice(): Kept {
  const store: UseStore = createStore('lacertus-own', 'acts')
  return {
    put: (key, act) => set(key, act, store),
    drop: (key) => del(key, store),
    all: async () => (await entries<string, Act>(store)) as [string, Act][],
  }
}

/** In the open page alone. */
export function inPage(): Kept {
  const acts = new Map<string, Act>()
  return {
    put: (key, act) => Promise.resolve(void acts.set(key, act)),
    drop: (key) => Promise.resolve(void acts.delete(key)),
    all: () => Promise.resolve([...acts]),
  }
}

/** Keeps what is written until the server has it. */
export class Queue {
  private flushing: Promise<Answer[]> | null = null

  constructor(
    private readonly kept: Kept,
    private readonly send: Send = post,
  ) {}

  /** Keep an act, then try to send all that is kept; the answer to this one. */
  async add(key: string, act: Act): Promise<Answer> {
    await this.kept.put(key, act)
    return this.try(key, act)
  }

  /** Send what is kept, one after the other; stops at the first that nobody answers. */
  flush(): Promise<Answer[]> {
    this.flushing ??= this.sendAll().finally(() => (this.flushing = null))
    return this.flushing
  }

  async waiting(): Promise<number> {
    return (await this.kept.all()).length
  }

  private async sendAll(): Promise<Answer[]> {
    const answers: Answer[] = []
    for (const [key, act] of await this.kept.all()) {
      const answer = await this.try(key, act)
      answers.push(answer)
      if (answer.kind === 'away') break
    }
    return answers
  }

  private async try(key: string, act: Act): Promise<Answer> {
    const answer = await this.send(act)
    // What was refused would be refused again; the writer is told why.
    if (answer.kind !== 'away') await this.kept.drop(key)
    return answer
  }
}

/** A new random key (RFC 9562, version 4), also where the page came over plain HTTP. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}
