import { createStore, del, entries, set } from 'idb-keyval'
import { ApiError, client, unwrap, type Schemas } from '../api/client'
import { Queue, type Act, type Answer, type Kept } from '../../own/queue'

export type FloorNote = Schemas['FloorIn']

/** Notes that are not sent yet, on the device: they outlive the page. */
function onDevice(): Kept {
  const store = createStore('lacertus-floor', 'notes')
  return {
    put: (key, act) => set(key, act, store),
    drop: (key) => del(key, store),
    all: async () => (await entries<string, Act>(store)) as [string, Act][],
  }
}

async function send({ fields }: Act): Promise<Answer> {
  try {
    await unwrap(client.POST('/api/floor', { body: JSON.parse(fields['note'] ?? '{}') as FloorNote }))
    return { kind: 'sent' }
  } catch (error) {
    if (error instanceof ApiError && !error.passing && error.status !== 401)
      return { kind: 'refused', why: error.message }
    return { kind: 'away' }
  }
}

let queue: Queue | null = null
/** Keeps notes from the floor until the server has them. */
export function floorQueue(): Queue {
  queue ??= new Queue(onDevice(), send)
  return queue
}

/** Keep a note and try to send it, with all that were kept before. */
export async function keep(note: FloorNote): Promise<Answer> {
  const answer = await floorQueue().add(note.key, { to: '/api/floor', fields: { note: JSON.stringify(note) } })
  if (answer.kind === 'sent') await floorQueue().flush()
  return answer
}
