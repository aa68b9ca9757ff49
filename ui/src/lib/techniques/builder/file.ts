import { isCollection, isMap, isScalar, isSeq, parseDocument, Scalar, visit, type Document, type Node } from 'yaml'

export type Path = readonly (string | number)[]
/** A value that is set at a path; undefined deletes what is there. */
export type Change = readonly [Path, unknown]

/** Keys whose value names events. */
const NAMING = new Set([
  'at',
  'from',
  'to',
  'than',
  'event',
  'events',
  'cue',
  'answers',
  'wrong',
  'until',
  'resists_from',
  'optional',
  'while',
])

/** A technique file as the steps read and change it. A change gives the new text: comments and what is not changed stay. */
export class TechniqueFile {
  /** Where the text cannot be read at all: what is wrong, and in which line. */
  readonly broken: { line: number; message: string } | null
  readonly #data: unknown

  constructor(readonly text: string) {
    const doc = parseDocument(text)
    const [error] = doc.errors
    const line = error?.linePos?.[0].line ?? 1
    if (error) this.broken = { line, message: error.message.split('\n')[0] ?? 'It is not valid YAML.' }
    else if (!isMap(doc.contents)) this.broken = { line: 1, message: 'It holds no technique.' }
    else this.broken = null
    this.#data = this.broken ? {} : read(doc)
  }

  at(path: Path): unknown {
    let value = this.#data
    for (const key of path) value = (value as Record<string | number, unknown> | null | undefined)?.[key]
    return value
  }
  words(path: Path): string {
    const value = this.at(path)
    return typeof value === 'string' ? value : typeof value === 'number' ? String(value) : ''
  }
  list(path: Path): unknown[] {
    const value = this.at(path)
    return Array.isArray(value) ? value : []
  }
  /** The keys of a mapping, as they are written. */
  keys(path: Path): string[] {
    const value = this.at(path)
    return typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.keys(value) : []
  }

  /** The text with some values set or, where undefined, deleted. */
  with(...changes: Change[]): string {
    return this.#edited((doc) => {
      for (const [path, value] of changes) {
        if (value === undefined) doc.deleteIn(path)
        else {
          clearWay(doc, path)
          doc.setIn(path, doc.createNode(value, { flow: path.length > 1 && !isTopList(path) }))
        }
      }
    })
  }

  /** The text with an event added before another one of the mapping, or as the last. */
  withEvent(key: string, event: Record<string, unknown>, seconds: number | null, before: string | null): string {
    return this.#edited((doc) => {
      clearWay(doc, ['events', key])
      if (!isMap(doc.get('events'))) doc.set('events', doc.createNode({}))
      const events = doc.get('events')
      if (!isMap(events)) return
      const pair = doc.createPair(key, doc.createNode(event, { flow: true }))
      const at = before === null ? -1 : events.items.findIndex((one) => keyOf(one.key) === before)
      if (at < 0) events.items.push(pair)
      else events.items.splice(at, 0, pair)
      if (seconds !== null) doc.setIn(['moves_like', 'events', key], seconds)
    })
  }

  /** The text with an event under another name, also wherever it is read. */
  withEventCalled(from: string, to: string): string {
    return this.#edited((doc) => {
      for (const path of [['events'], ['moves_like', 'events']]) renameKey(doc.getIn(path), from, to)
      visit(doc, {
        Pair: (_, pair) => {
          const key = keyOf(pair.key)
          if (NAMING.has(key) && !isMap(pair.value)) renameIn(pair.value as Node | null, from, to)
          if (key === 'branch' && isMap(pair.value))
            for (const one of pair.value.items) renameIn(one.value as Node | null, from, to)
        },
      })
    })
  }

  /** The text with a phase under another name, also wherever it is named. */
  withPhaseCalled(from: string, to: string): string {
    return this.#edited((doc) => {
      for (const key of ['phases', 'repeats', 'teaching_order']) renameIn(doc.get(key) as Node | null, from, to)
      visit(doc, {
        Pair: (_, pair) => {
          if (keyOf(pair.key) === 'phase') renameIn(pair.value as Node | null, from, to)
        },
      })
    })
  }

  #edited(change: (doc: Document) => void): string {
    const doc = parseDocument(this.text)
    change(doc)
    return doc.toString({ lineWidth: 120, flowCollectionPadding: false })
  }
}

/** Aliases could make a small file endless; the server refuses them too. */
function read(doc: Document): unknown {
  try {
    return doc.toJS({ maxAliasCount: 0 })
  } catch {
    return {}
  }
}

const keyOf = (key: unknown) => (isScalar(key) ? String(key.value) : String(key))
const isTopList = (path: Path) => path.length === 2 && typeof path[1] === 'number'

/** What stands in the way as a single value gives way to a mapping or a list. */
function clearWay(doc: Document, path: Path): void {
  for (let i = 1; i < path.length; i++) {
    const way = path.slice(0, i)
    const there = doc.getIn(way, true)
    if (there !== undefined && !isCollection(there)) {
      doc.deleteIn(way)
      return
    }
  }
}

function renameKey(map: unknown, from: string, to: string): void {
  if (!isMap(map)) return
  for (const pair of map.items) if (keyOf(pair.key) === from) pair.key = new Scalar(to)
}

function renameIn(node: Node | null, from: string, to: string): void {
  if (isScalar(node) && node.value === from) node.value = to
  else if (isSeq(node)) for (const item of node.items) renameIn(item as Node, from, to)
}

/** Words as a name in the file: small letters and digits, joined by `_` or `-`; empty where nothing is left of them. */
export function named(words: string, by: '_' | '-'): string {
  const plain = words
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, by)
  return plain.replace(new RegExp(`^[0-9${by}]+|${by}+$`, 'g'), '').slice(0, 50)
}
