import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Deck, type Side, type Speed } from './deck.svelte'

const REPAINT_MS = 1000 / 60

/** A film as a browser plays it: its time runs by itself, its pictures are told one repaint later. */
class Film extends EventTarget {
  muted = false
  paused = true
  seeking = false
  ended = false
  readyState = 4
  currentTime = 0
  playbackRate = 1
  /** No picture comes any more; its time runs on. */
  stuck = false
  #told: VideoFrameRequestCallback[] = []

  constructor(readonly fps: number) {
    super()
  }
  play(): Promise<void> {
    this.paused = false
    return Promise.resolve()
  }
  pause(): void {
    this.paused = true
  }
  requestVideoFrameCallback(told: VideoFrameRequestCallback): number {
    return this.#told.push(told)
  }
  pass(seconds: number): void {
    if (!this.stuck) {
      const mediaTime = Math.floor(this.currentTime * this.fps + 1e-6) / this.fps
      for (const told of this.#told.splice(0)) told(0, { mediaTime } as VideoFrameCallbackMetadata)
    }
    if (!this.paused) this.currentTime += seconds * this.playbackRate
  }
}

function side(key: string, fps: number): Side {
  const times = Array.from({ length: 3 * fps }, (_, i) => i / fps)
  return { key, kind: 'rep', first: 0, last: times.length - 1, pts_s: times, clock_s: times } as unknown as Side
}

let repaint: FrameRequestCallback | null
let now: number

/** A clock with two films, and which frames are on the screen. */
function set(speed: Speed): { deck: Deck; films: Film[]; shown: number[]; pass: (repaints: number) => void } {
  const deck = new Deck()
  const films = [new Film(60), new Film(30)]
  const shown = [-1, -1]
  deck.open([side('a', 60), side('b', 30)])
  deck.speed = speed
  films.forEach((film, i) => {
    deck.attach(deck.sides[i] as Side, film as unknown as HTMLVideoElement, (frame) => (shown[i] = frame))
  })
  const pass = (repaints: number): void => {
    for (let i = 0; i < repaints; i++) {
      now += REPAINT_MS
      for (const film of films) film.pass(REPAINT_MS / 1000)
      const due = repaint
      repaint = null
      due?.(now)
    }
  }
  return { deck, films, shown, pass }
}

beforeEach(() => {
  ;[repaint, now] = [null, 0]
  vi.stubGlobal('performance', { now: () => now })
  vi.stubGlobal('requestAnimationFrame', (asked: FrameRequestCallback) => ((repaint = asked), 1))
  vi.stubGlobal('cancelAnimationFrame', () => (repaint = null))
  vi.stubGlobal('HTMLVideoElement', class {})
})
afterEach(() => vi.unstubAllGlobals())

const off = (deck: Deck, shown: readonly number[]): number[] =>
  deck.sides.map((one, i) => (shown[i] ?? 0) - deck.frameOf(one))

it.each<Speed>(['1', '0.5', '0.25', '0.125'])('keeps both films within a frame of the clock at %s', (speed) => {
  const { deck, shown, pass } = set(speed)
  deck.toggle()
  for (let i = 0; i < 120; i++) {
    pass(1)
    expect(Math.max(...off(deck, shown).map(Math.abs))).toBeLessThanOrEqual(1)
  }
  expect(deck.now).toBeCloseTo(2 * Number(speed), 1)
})

it.each<Speed>(['1', '0.25'])('brings a film that ran ahead back within half a second at %s', (speed) => {
  const { deck, films, shown, pass } = set(speed)
  deck.toggle()
  pass(12)
  ;(films[0] as Film).currentTime += 0.04
  pass(2)
  expect(off(deck, shown)[0]).toBeGreaterThan(0)
  pass(30)
  expect(off(deck, shown)[0]).toBeLessThanOrEqual(0)
})

it('waits for a film whose picture does not come, half a second at the most', () => {
  const { deck, films, pass } = set('0.5')
  deck.toggle()
  pass(30)
  ;(films[0] as Film).stuck = true
  pass(6)
  const stood = deck.now
  pass(18)
  expect(deck.now).toBe(stood)
  pass(36)
  expect(deck.now).toBeGreaterThan(stood)
})

it('stands while a film has nothing to show', () => {
  const { deck, films, pass } = set('1')
  deck.toggle()
  pass(12)
  const stood = deck.now
  ;(films[1] as Film).readyState = 2
  pass(60)
  expect(deck.now).toBe(stood)
})
