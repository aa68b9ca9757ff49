import { untrack } from 'svelte'
import { frameAt, midTime } from './frames'
import type { FrameRing } from './ring'

/** Shares of the file's own pace; `real` is the pace of reality, which differs where the clip was captured at
 * high speed. */
export const SPEEDS = [1, 0.5, 0.25, 0.125] as const
export type Speed = (typeof SPEEDS)[number] | 'real'
/** Browsers play no slower and no faster than this. */
const SLOWEST = 0.0625
const FASTEST = 16
/** While a key is held, a step so often (milliseconds), as quick as the screen can follow. */
const RUN_MS = 25
/** So long after the last step the film itself goes to the frame on screen. */
const REST_MS = 120

/**
 * Steps a plain <video> by frame. `wanted` is the frame asked for, `shown` the one on the screen: it
 * changes only when the browser has presented that frame, or when its picture, decoded beforehand, was drawn over the film.
 */
export class Player {
  wanted = $state(0)
  shown = $state(0)
  playing = $state(false)
  speed = $state<Speed>(0.25)
  sound = $state(false)
  loop = $state<{ first: number; last: number } | null>(null)
  /** A picture decoded beforehand covers the film, which is not there yet. */
  covered = $state(false)
  #ring: FrameRing | null = null
  #cover: HTMLCanvasElement | null = null
  #resting: ReturnType<typeof setTimeout> | null = null
  /** The frame that the film itself shows. */
  #presented = -1
  #video: HTMLVideoElement | null = null
  #seeking = false
  #filmless = false
  #pts: readonly number[] = []
  #real: readonly number[] = []
  #running: ReturnType<typeof setInterval> | null = null

  /** Take over a video element whose frames begin at `pts` (seconds of the file) and `real` (seconds of reality). */
  attach(video: HTMLVideoElement, pts: readonly number[], real: readonly number[] = pts): () => void {
    // Which frame is asked for at the moment is not what an effect that attaches hangs on.
    return untrack(() => this.#attach(video, pts, real))
  }
  #attach(video: HTMLVideoElement, pts: readonly number[], real: readonly number[]): () => void {
    this.#video = video
    this.#pts = pts
    this.#real = real
    this.wanted = Math.min(this.wanted, Math.max(this.last, 0))
    const seeked = () => this.#seeked()
    const paused = () => this.#paused()
    video.addEventListener('seeked', seeked)
    video.addEventListener('pause', paused)
    const loaded = () => this.#seek()
    video.addEventListener('loadeddata', loaded, { once: true })
    this.#watch(video)
    // An element that is on the page already, at some frame, presents nothing until it is moved.
    if (video.readyState >= 2) {
      this.shown = this.#presented = frameAt(pts, video.currentTime)
      if (this.shown !== this.wanted) this.#seek()
    }
    return () => {
      this.rest()
      this.#lift()
      video.removeEventListener('seeked', seeked)
      video.removeEventListener('pause', paused)
      video.removeEventListener('loadeddata', loaded)
      this.#video = null
    }
  }

  /** Draw pictures that were decoded beforehand over the film; returns what ends that. */
  cover(canvas: HTMLCanvasElement, ring: FrameRing): () => void {
    this.#cover = canvas
    this.#ring = ring
    ring.centre(this.wanted)
    return () => {
      this.#cover = this.#ring = null
      this.covered = false
    }
  }
  /** A picture was decoded: shown, where it is the one that is waited for. */
  came(frame: number): void {
    if (frame === this.wanted && this.underWay && this.#draw()) this.#restSoon()
  }

  /** Step through the frames of a clip whose film is not kept: the frame asked for is the one shown. */
  attachNothing(pts: readonly number[], real: readonly number[] = pts): () => unknown {
    this.#pts = pts
    this.#real = real
    this.#filmless = true
    this.shown = this.wanted
    return () => (this.#filmless = false)
  }

  get last(): number {
    return this.#pts.length - 1
  }

  /** True while the frame asked for is not on the screen yet. */
  get underWay(): boolean {
    return !this.playing && this.shown !== this.wanted
  }

  /** True where the clip was captured faster or slower than it plays, anywhere. */
  get highSpeed(): boolean {
    return this.#pts.some((_, frame) => Math.abs(this.rateAt(frame) - 1) > 0.01)
  }

  /** Seconds of the file that one second of reality lasts at a frame. */
  rateAt(frame: number): number {
    const at = Math.max(0, Math.min(frame, this.last - 1))
    const real = (this.#real[at + 1] ?? 0) - (this.#real[at] ?? 0)
    return real > 0 ? ((this.#pts[at + 1] ?? 0) - (this.#pts[at] ?? 0)) / real : 1
  }

  /** Go to a frame; of several asked for quickly, the last one counts. */
  go(frame: number): void {
    this.pause()
    // Before an element is taken over the last frame is not known.
    this.wanted = Math.max(0, Math.min(this.last < 0 ? Infinity : this.last, Math.round(frame)))
    if (this.#filmless) return void (this.shown = this.wanted)
    this.#ring?.centre(this.wanted)
    if (this.#draw()) this.#restSoon()
    else if (!this.#seeking) this.#seek()
  }

  /** Draw the frame that is asked for over the film, where it was decoded beforehand. */
  #draw(): boolean {
    const picture = this.playing ? undefined : this.#ring?.get(this.wanted)
    const pen = picture && this.#cover?.getContext('2d')
    if (!picture || !this.#cover || !pen) return false
    if (this.shown === this.wanted && !this.covered) return true
    if (this.#cover.width !== picture.width || this.#cover.height !== picture.height)
      [this.#cover.width, this.#cover.height] = [picture.width, picture.height]
    pen.drawImage(picture, 0, 0)
    this.covered = true
    this.shown = this.wanted
    return true
  }
  /** Once nobody steps any more the film goes to the frame, and is shown in all its lines. */
  #restSoon(): void {
    if (this.#resting !== null) clearTimeout(this.#resting)
    this.#resting = setTimeout(() => {
      this.#resting = null
      if (!this.playing && !this.#seeking) this.#seek()
    }, REST_MS)
  }

  step(by: number): void {
    this.go((this.playing ? this.shown : this.wanted) + by)
  }

  /** Run on while a key is held: the next step is asked for only when the last one is on the screen. */
  run(by: number): void {
    if (this.#running !== null) return
    this.step(by)
    this.#running = setInterval(() => {
      if (!this.underWay) this.step(by)
    }, RUN_MS)
  }

  /** The key was let go. */
  rest(): void {
    if (this.#running !== null) clearInterval(this.#running)
    this.#running = null
  }

  toggle(): void {
    if (!this.#video) return
    if (this.playing) return this.pause()
    this.#lift()
    const { loop } = this
    if (loop && (this.shown < loop.first || this.shown >= loop.last))
      this.#video.currentTime = midTime(this.#pts, loop.first)
    else if (frameAt(this.#pts, this.#video.currentTime) !== this.wanted)
      this.#video.currentTime = midTime(this.#pts, this.wanted)
    this.playing = true
    this.#pace()
    void this.#video.play().catch(() => (this.playing = false))
  }

  pause(): void {
    if (this.playing) this.#video?.pause()
  }

  cycleSpeed(): void {
    const speeds: readonly Speed[] = this.highSpeed ? [...SPEEDS, 'real'] : SPEEDS
    this.speed = speeds[(speeds.indexOf(this.speed) + 1) % speeds.length] ?? 1
    this.#pace()
  }

  /** Play a stretch over and over; the same again ends that. */
  toggleLoop(first: number, last: number): void {
    this.loop = this.loop && this.loop.first === first && this.loop.last === last ? null : { first, last }
  }

  toggleSound(): void {
    this.sound = !this.sound
    this.#pace()
  }

  #pace(): void {
    if (!this.#video) return
    const wanted = this.speed === 'real' ? this.rateAt(this.shown) : this.speed
    const rate = Math.max(SLOWEST, Math.min(FASTEST, wanted))
    if (this.#video.playbackRate !== rate) this.#video.playbackRate = rate
    this.#video.muted = !this.sound
  }

  #seek(): void {
    if (!this.#video || this.#video.readyState < 1) return
    this.#seeking = true
    this.#video.currentTime = midTime(this.#pts, this.wanted)
  }

  /** Show the film itself again. */
  #lift(): void {
    if (this.#resting !== null) clearTimeout(this.#resting)
    this.#resting = null
    this.covered = false
  }

  #seeked(): void {
    this.#seeking = false
    if (this.playing || !this.#video) return
    // While it is stepped on, the film need not follow every step.
    if (this.#resting !== null && this.covered && this.shown === this.wanted) return
    if (frameAt(this.#pts, this.#video.currentTime) !== this.wanted) this.#seek()
    // A seek inside the frame that the film shows already presents nothing new, so the callback below stays silent.
    else if (this.#presented === this.wanted || !('requestVideoFrameCallback' in this.#video)) {
      this.covered = false
      this.shown = this.wanted
    }
  }

  #paused(): void {
    if (!this.playing) return
    this.playing = false
    this.wanted = this.shown
    this.#seek()
  }

  /** Follow what the browser presents. */
  #watch(video: HTMLVideoElement): void {
    if (!('requestVideoFrameCallback' in video)) return
    const presented = (_now: number, frame: VideoFrameCallbackMetadata) => {
      if (this.#video !== video) return
      const at = (this.#presented = frameAt(this.#pts, frame.mediaTime))
      // A picture that covers the film is newer than what the film shows, until both are of one frame.
      if (!this.covered || at === this.wanted) {
        this.covered = false
        this.shown = at
      }
      if (this.playing) this.#played(video)
      video.requestVideoFrameCallback(presented)
    }
    video.requestVideoFrameCallback(presented)
  }

  #played(video: HTMLVideoElement): void {
    this.wanted = this.shown
    if (this.loop && this.shown >= this.loop.last) video.currentTime = midTime(this.#pts, this.loop.first)
    if (this.speed === 'real') this.#pace()
  }
}
