import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Clip = Schemas['ClipOut']
export type ClipTimes = Schemas['ClipTimesOut']
export type Review = Schemas['ReviewOut']
export type Rep = Schemas['RepOut']
export type RepForm = Schemas['RepIn']
export type Technique = Schemas['TechniqueOut']
export type Checkpoint = Schemas['CheckpointOut']
export type Judgement = Schemas['JudgementOut']
export type Point = Schemas['PointOut']
export type Correction = Schemas['CorrectionOut']
export type Student = Schemas['StudentOut']
export type StudentPage = Schemas['StudentPageOut']
export type Film = Schemas['Film']
export type Job = Schemas['JobOut']
export type Traces = Schemas['TracesOut']
export type View = Schemas['ViewOut']
export type Line = Schemas['LineOut']
export type BodyName = Point['body']

/** What went wrong, in words for people, and the HTTP status (0 when the server was not reached). */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly code: string,
  ) {
    super(message)
  }

  /** True when sending the same again may work: no connection, or the server was down. */
  get passing(): boolean {
    return this.status === 0 || this.status >= 502
  }
}

export const client = createClient<paths>({ baseUrl: '/' })

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** The data of an answer, or an ApiError with the server's own words. */
export async function unwrap<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await asked
  } catch {
    throw new ApiError('The server cannot be reached. What you did is kept here and sent again.', 0, 'offline')
  }
  if (answer.data !== undefined) return answer.data
  const body = answer.error as { message?: string; code?: string } | undefined
  const message = body?.message ?? `The server answered ${answer.response.status}.`
  throw new ApiError(message, answer.response.status, body?.code ?? 'unknown')
}

/** A request that changes something; each can be sent twice with the same effect as once. Made by `write`. */
export interface Change {
  method: 'PUT' | 'DELETE' | 'PATCH' | 'POST'
  path: string
  body?: unknown
  /** The revision of the review that was on the screen when it was made: what others changed since is not overwritten. */
  seen?: number
}

type Method = 'put' | 'delete' | 'patch' | 'post'
type Asks<M extends Method> = { [P in keyof paths]: paths[P][M] extends { responses: object } ? P : never }[keyof paths]
type Names<O> = O extends { parameters: { path: infer T } } ? T : Record<string, never>
type Body<O> = O extends { requestBody: { content: { 'application/json': infer B } } } ? [body: B] : []

/** A change by the contract of the server: route, the names in its path, and its body are held to the OpenAPI file. */
export function write<M extends Method, P extends Asks<M>>(
  method: M,
  route: P,
  names: Names<paths[P][M]>,
  ...body: Body<paths[P][M]>
): Change {
  const filled = Object.entries(names as Record<string, string | number>).reduce(
    (path, [name, value]) => path.replace(`{${name}}`, encodeURIComponent(String(value))),
    route as string,
  )
  const change: Change = { method: method.toUpperCase() as Change['method'], path: filled.replace(/^\/api/, '') }
  return body.length ? { ...change, body: body[0] } : change
}

/** Send a change; answers with what the server has now: of a review, the review judged anew. */
export async function send<Answer = Review>(change: Change, also: Record<string, string> = {}): Promise<Answer> {
  const headers: Record<string, string> = { 'Content-Type': 'application/json', 'X-Window': windowName(), ...also }
  if (change.seen !== undefined) headers['X-Seen'] = String(change.seen)
  const init: RequestInit = { method: change.method, headers }
  if (change.body !== undefined) init.body = JSON.stringify(change.body)
  const asked = fetch(`/api${change.path}`, init).then(async (response) => {
    const data: unknown = await response.json().catch(() => undefined)
    return response.ok ? { data: data as Answer, response } : { error: data, response }
  })
  return unwrap(asked)
}

/** What tells this window of the browser from others; it stays over a reload. */
export function windowName(): string {
  const known = sessionStorage.getItem('lacertus.window')
  if (known) return known
  const made = newId()
  sessionStorage.setItem('lacertus.window', made)
  return made
}

/** A random version 4 UUID; `crypto.randomUUID` is missing on pages without TLS. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}
