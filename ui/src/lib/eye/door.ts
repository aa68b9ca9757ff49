import { ApiError, client, unwrap, type Schemas } from '../api/client'

export type Answer = Schemas['EyeAnswerIn']
export type Answered = Schemas['EyeAnsweredOut']

/** Where sets come from and answers go: a coach’s own API, or a student’s page behind its link. */
export interface EyeDoor {
  read(): Promise<Schemas['EyeOut']>
  makeSet(wish: Schemas['EyeSetIn']): Promise<Schemas['EyeSetOut']>
  answer(given: Answer): Promise<Answered>
  film(id: string): string
  /** The name under which answers wait in the browser. */
  kept: string
  /** Whether the own scatter of events may be used in reviews, and asking for it; nobody else has reviews. */
  useOwn?: (use: boolean) => Promise<unknown>
  /** Shows one’s own eye to the others who teach here by name, or no longer; students’ are shown to nobody. */
  showName?: (shown: boolean) => Promise<unknown>
}

export const coachDoor: EyeDoor = {
  read: () => unwrap(client.GET('/api/eye')),
  makeSet: (body) => unwrap(client.POST('/api/eye/sets', { body })),
  answer: (body) => unwrap(client.POST('/api/eye/answers', { body })),
  film: (id) => `/api/eye/films/${id}/film.mp4`,
  kept: 'lacertus.eye',
  useOwn: (use) => unwrap(client.PUT('/api/eye/own-events', { body: { use } })),
  showName: (shown) => unwrap(client.PUT('/api/eye/named', { body: { shown } })),
}

/** The door of a student’s page; what waits there is kept apart from that of others who use the same phone. */
export function studentDoor(base: string): EyeDoor {
  async function ask<T>(path: string, body?: unknown): Promise<T> {
    const init = body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) }
    const asked = fetch(`${base}/train${path}`, { ...init, headers: { 'Content-Type': 'application/json' } })
    return unwrap(
      asked.then(async (response) => {
        const data: unknown = await response.json()
        return response.ok ? { data: data as T, response } : { error: data, response }
      }),
    )
  }
  return {
    read: () => ask('/eye'),
    makeSet: (wish) => ask('/sets', wish),
    answer: (given) => ask('/answers', given),
    film: (id) => `${base}/train/films/${id}/film.mp4`,
    kept: `lacertus.eye ${base}`,
  }
}

/** Whether nothing answered, or nothing that decides: the same is sent again later. */
export function isAway(error: unknown): boolean {
  if (error instanceof ApiError) return error.passing || AGAIN.includes(error.status)
  return error instanceof TypeError
}
/** Signed out, too slow, at the same time as another, too many at once: what was answered is right all the same. */
const AGAIN = [401, 408, 409, 423, 429, 500]
