import type { Schemas } from '../api/client'
import { midTime } from '../player/frames'
import { begunAt } from './curve'

export type Side = Schemas['ComparedSideOut']
export type Mode = 'locked' | 'stretched'
export const SPEEDS = [
  ['1', '1×'],
  ['0.5', '½×'],
  ['0.25', '¼×'],
  ['0.125', '⅛×'],
] as const
export type Speed = (typeof SPEEDS)[number][0]

/** A film that is so far off is sought, not hurried. */
const LATE_S = 0.2
/** A film that is off is hurried or held back so that it would be right again after so long, whatever the speed. */
const CATCH_UP_S = 0.15
/** What browsers play at. */
const [SLOWEST, FASTEST] = [0.0625, 16]
/** The clock waits for a film that is more than a frame behind, so long at a time: one that never comes does not stop it. */
const WAITS_S = 0.5

/** A film of a side: what is asked of it, and which of its frames is on the screen. */
export interface Reel {
  side: Side
  video: HTMLVideoElement
  /** Frame of the clip that is on the screen. */
  shown: number
}

/** One clock for all sides of a comparison. Each side shows the frame that has begun at the clock's time. */
export class Deck {
  now = $state(0)
  playing = $state(false)
  speed = $state<Speed>('0.5')
  mode = $state<Mode>('locked')
  /** A stretch that is played over and over, seconds of the clock. */
  loop = $state.raw<{ from: number; to: number } | null>(null)
  sides = $state.raw<readonly Side[]>([])
  #reels = new Set<Reel>()
  #last = 0
  /** How long the clock has waited for a film that is behind, seconds. */
  #waited = 0
  #asked = 0

  /** The time of the clock at which each shown frame of a side begins. */
  times(side: Side): readonly number[] {
    return this.mode === 'stretched' && side.stretched_s ? side.stretched_s : side.clock_s
  }

  /** The frame of a side's clip that is to be seen now. */
  frameOf(side: Side): number {
    return side.first + begunAt(this.times(side), this.now)
  }

  get from(): number {
    return Math.min(...this.sides.map((side) => this.times(side)[0] ?? 0))
  }
  get to(): number {
    return Math.max(...this.sides.map((side) => this.times(side).at(-1) ?? 0))
  }

  /** Show another comparison; the clock stays where it is, as far as there is something to be seen. */
  open(sides: readonly Side[]): void {
    this.sides = sides
    if (this.mode === 'stretched' && sides.some((side) => side.kind !== 'view' && !side.stretched_s))
      this.mode = 'locked'
    this.go(Math.max(this.from, Math.min(this.now, this.to)))
  }

  /** Stop at a moment of the clock. */
  go(now: number): void {
    this.pause()
    this.now = Math.max(this.from, Math.min(this.to, now))
    for (const reel of this.#reels) this.#seek(reel)
  }

  /** One frame of the leading side on or back. */
  step(by: number): void {
    const lead = this.sides[0]
    if (!lead) return
    const times = this.times(lead)
    const at = begunAt(times, this.now)
    this.go(times[Math.max(0, Math.min(times.length - 1, at + by))] ?? this.now)
  }

  change(mode: Mode): void {
    this.mode = mode
    this.go(this.now)
  }

  toggle(): void {
    if (this.playing) return this.go(this.now)
    const from = this.loop?.from ?? this.from
    if (this.now >= (this.loop?.to ?? this.to) - 1e-6 || this.now < from) this.now = from
    this.playing = true
    for (const reel of this.#reels) {
      this.#seek(reel)
      if (!this.#isOver(reel.side)) this.#play(reel)
    }
    this.#last = performance.now()
    this.#asked = requestAnimationFrame(this.#tick)
  }

  pause(): void {
    if (!this.playing) return
    this.playing = false
    cancelAnimationFrame(this.#asked)
    for (const { video } of this.#reels) video.pause()
  }

  /** Take over the film of a side; tells which frame is shown. Returns what lets go of it. */
  attach(side: Side, video: HTMLVideoElement, shown: (frame: number) => void): () => void {
    // The attribute alone does not silence an element that is made by script.
    video.muted = true
    const reel: Reel = { side, video, shown: -1 }
    this.#reels.add(reel)
    const seek = () => {
      if (!this.playing) this.#seek(reel)
    }
    video.addEventListener('loadeddata', seek)
    video.addEventListener('canplay', seek, { once: true })
    const told = (time: number) => {
      reel.shown = Math.min(side.first + begunAt(side.pts_s, time, 0.0005), side.last)
      shown(reel.shown)
    }
    const seeked = () => told(video.currentTime)
    video.addEventListener('seeked', seeked)
    const presented = (_now: number, frame: VideoFrameCallbackMetadata) => {
      if (!this.#reels.has(reel)) return
      told(frame.mediaTime)
      video.requestVideoFrameCallback(presented)
    }
    if ('requestVideoFrameCallback' in video) video.requestVideoFrameCallback(presented)
    seek()
    return () => {
      this.#reels.delete(reel)
      video.removeEventListener('loadeddata', seek)
      video.removeEventListener('canplay', seek)
      video.removeEventListener('seeked', seeked)
    }
  }

  /** The file's time at which a side shows what is to be seen now, between its frames while it plays. */
  #fileTime(side: Side): { at: number; pace: number } {
    const times = this.times(side)
    const i = Math.min(begunAt(times, this.now), times.length - 2)
    const [a, b] = [times[i] ?? 0, times[i + 1] ?? 0]
    const [p, q] = [side.pts_s[i] ?? 0, side.pts_s[i + 1] ?? 0]
    const pace = b > a ? (q - p) / (b - a) : 1
    return { at: p + Math.max(0, Math.min(1, b > a ? (this.now - a) / (b - a) : 0)) * (q - p), pace }
  }

  /** Whether a side has nothing to show at the moment of the clock. */
  #isOver(side: Side): boolean {
    const times = this.times(side)
    return this.now < (times[0] ?? 0) || this.now >= (times.at(-1) ?? 0)
  }

  /** Whether the picture of a film that plays is more than a frame behind what is to be seen. */
  #isLate({ side, video, shown }: Reel): boolean {
    const tells = 'requestVideoFrameCallback' in video && shown >= 0
    return tells && !video.paused && !video.seeking && !this.#isOver(side) && this.frameOf(side) - shown > 1
  }

  #play(reel: Reel): void {
    this.#pace(reel)
    reel.video.play().catch((error: unknown) => {
      // A film that was stopped before it had begun is no failure.
      if (!(error instanceof DOMException && error.name === 'AbortError')) this.pause()
    })
  }

  #seek({ side, video }: Reel): void {
    if (video.readyState < 1) return
    video.currentTime = midTime(side.pts_s, this.frameOf(side) - side.first)
  }

  /** Play at the clock's pace, a little quicker or slower where the film is off. */
  #pace({ side, video }: Reel): void {
    const { at, pace } = this.#fileTime(side)
    const off = at - video.currentTime
    if (Math.abs(off) > LATE_S * Math.max(pace, 0.25) && !video.seeking) video.currentTime = at
    const wanted = Number(this.speed) * pace + off / CATCH_UP_S
    video.playbackRate = Math.max(SLOWEST, Math.min(FASTEST, wanted))
  }

  #tick = (at: number): void => {
    if (!this.playing) return
    const passed = (at - this.#last) / 1000
    this.#last = at
    // No side runs on while another one waits for its film, or its picture falls behind.
    const empty = [...this.#reels].some(({ video }) => video.readyState < 3 && !video.ended)
    const late = !empty && this.#waited < WAITS_S && [...this.#reels].some((reel) => this.#isLate(reel))
    this.#waited = late ? this.#waited + passed : Math.max(0, this.#waited - passed)
    if (!empty && !late) this.now += passed * Number(this.speed)
    const [from, to] = [this.loop?.from ?? this.from, this.loop?.to ?? this.to]
    if (this.now > to) {
      if (!this.loop) return this.go(to)
      this.now = from
      for (const reel of this.#reels) this.#seek(reel)
    }
    for (const reel of this.#reels) {
      const { side, video } = reel
      const over = this.#isOver(side)
      if (over && !video.paused) {
        video.pause()
        this.#seek(reel)
      } else if (!over && video.paused) {
        this.#seek(reel)
        this.#play(reel)
      } else if (!over) this.#pace(reel)
    }
    this.#asked = requestAnimationFrame(this.#tick)
  }
}
