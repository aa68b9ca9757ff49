import type { Asked, Told } from './decoding.worker'
import { frameAt, midTime } from './frames'

/** A lighter picture while stepping; at rest the film itself is shown. */
const LINES = 720
/** So much memory the pictures may take, and so few at least; a picture takes four bytes a pixel. */
const MOST_BYTES = 128e6
const FEWEST = 36
/** Pictures are decoded in stretches of this many frames, each from a keyframe: the review copy has one every twelve. */
const STRETCH = 12

/** Decodes a stretch of frames, and hands over each picture with its time in seconds as it comes. */
export type Decode = (from: number, to: number) => AsyncIterable<{ picture: Picture; timestamp: number }>
/** What is kept of a frame; `close` frees its memory at once. */
export type Picture = Pick<ImageBitmap, 'width' | 'height' | 'close'> & CanvasImageSource

/**
 * Pictures around the frame on screen, decoded before they are asked for, so that a step need not wait for a seek. Where the
 * browser cannot decode by itself there are none, and every step is a seek.
 */
export class FrameRing {
  readonly #kept = new Map<number, Picture>()
  /** The stretches of which every picture is there. */
  readonly #done = new Set<number>()
  #wanted = 0
  #forward = true
  #filling = false
  #closed = false

  constructor(
    private readonly pts: readonly number[],
    private readonly most: number,
    private readonly decode: Decode,
    /** A picture has come. */
    private readonly came: (frame: number) => void,
  ) {}

  get(frame: number): Picture | undefined {
    return this.#kept.get(frame)
  }

  /** Have the pictures around a frame decoded, more of them in the direction in which it is stepped. */
  centre(frame: number): void {
    if (frame !== this.#wanted) this.#forward = frame > this.#wanted
    this.#wanted = frame
    void this.#fill()
  }

  close(): void {
    this.#closed = true
    for (const picture of this.#kept.values()) picture.close()
    this.#kept.clear()
    this.#done.clear()
  }

  /** The stretches that are needed, the one on screen first, then those ahead and behind by turns. */
  get #needed(): number[] {
    const here = Math.floor(this.#wanted / STRETCH)
    const way = this.#forward ? 1 : -1
    const last = Math.floor((this.pts.length - 1) / STRETCH)
    return [here, here + way, here - way, here + 2 * way, here - 2 * way, here + 3 * way]
      .filter((one) => one >= 0 && one <= last)
      .slice(0, Math.max(2, Math.floor(this.most / STRETCH)))
  }

  async #fill(): Promise<void> {
    if (this.#filling) return
    this.#filling = true
    try {
      let next: number | undefined
      while (!this.#closed && (next = this.#needed.find((one) => !this.#done.has(one))) !== undefined)
        await this.#stretch(next)
    } catch {
      // A film that cannot be decoded here is stepped by seeking.
      this.close()
    } finally {
      this.#filling = false
    }
  }

  /** Decode a stretch, from its keyframe on, until it is not needed any more. */
  async #stretch(stretch: number): Promise<void> {
    const first = stretch * STRETCH
    const last = Math.min(first + STRETCH, this.pts.length) - 1
    const from = Math.max(0, (this.pts[first] ?? 0) - 0.0005)
    for await (const { picture, timestamp } of this.decode(from, midTime(this.pts, last))) {
      if (this.#closed || !this.#needed.includes(stretch)) return picture.close()
      const frame = frameAt(this.pts, timestamp)
      this.#kept.get(frame)?.close()
      this.#kept.set(frame, picture)
      this.came(frame)
    }
    this.#done.add(stretch)
    this.#drop()
  }

  /** Let go of the pictures of stretches that are not needed. */
  #drop(): void {
    const needed = new Set(this.#needed)
    for (const [frame, picture] of this.#kept)
      if (!needed.has(Math.floor(frame / STRETCH))) {
        picture.close()
        this.#kept.delete(frame)
      }
    for (const stretch of this.#done) if (!needed.has(stretch)) this.#done.delete(stretch)
  }
}

/** A ring over a film of the server, decoded beside the page; null where this browser cannot decode it. */
export async function openRing(
  url: string,
  pts: readonly number[],
  came: (frame: number) => void,
): Promise<{ ring: FrameRing; close: () => void } | null> {
  if (!('VideoDecoder' in globalThis)) return null
  const worker = new Worker(new URL('./decoding.worker.ts', import.meta.url), { type: 'module' })
  const say = (asked: Asked) => worker.postMessage(asked)
  const size = await new Promise<{ width: number; height: number } | null>((answer) => {
    worker.onmessage = ({ data }: MessageEvent<Told>) => 'ready' in data && answer(data.ready)
    worker.onerror = () => answer(null)
    say({ open: new URL(url, location.href).href, lines: LINES })
  })
  if (!size) {
    worker.terminate()
    return null
  }
  const most = Math.max(FEWEST, Math.floor(MOST_BYTES / (4 * size.width * size.height)))
  const ring = new FrameRing(pts, most, overMessages(worker, say), came)
  return { ring, close: () => (ring.close(), worker.terminate()) }
}

/** The pictures of a stretch as the worker sends them. */
function overMessages(worker: Worker, say: (asked: Asked) => void): Decode {
  let count = 0
  return async function* (from, to) {
    const stretch = ++count
    const waiting: Told[] = []
    let wake: () => void = () => undefined
    const heard = ({ data }: MessageEvent<Told>) => {
      waiting.push(data)
      wake()
    }
    worker.addEventListener('message', heard)
    let ended = false
    try {
      say({ stretch, from, to })
      while (!ended) {
        const told = waiting.shift()
        if (!told) await new Promise<void>((come) => (wake = come))
        else if ('picture' in told && told.stretch === stretch) yield told
        else if ('done' in told && told.done === stretch) ended = true
        else if ('failed' in told && told.failed === stretch) throw new Error('the film cannot be decoded')
      }
    } finally {
      if (!ended) say({ stop: stretch })
      worker.removeEventListener('message', heard)
    }
  }
}
