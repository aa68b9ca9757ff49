import { frameAt, midTime } from './frames'

export const SPEEDS = [1, 0.5, 0.25, 0.125] as const

/**
 * Steps a plain <video> by frame. `wanted` is the frame asked for, `shown` the one on the screen: it
 * changes only when the browser has presented that frame.
 */
export class Player {
  wanted = $state(0)
  shown = $state(0)
  playing = $state(false)
  speed = $state<(typeof SPEEDS)[number]>(0.25)
  #video: HTMLVideoElement | null = null
  #seeking = false
  #filmless = false
  #pts: readonly number[] = []

  /** Take over a video element whose frames begin at `pts` (seconds). */
  attach(video: HTMLVideoElement, pts: readonly number[]): () => void {
    this.#video = video
    this.#pts = pts
    const seeked = () => this.#seeked()
    const paused = () => this.#paused()
    video.addEventListener('seeked', seeked)
    video.addEventListener('pause', paused)
    const loaded = () => this.#seek()
    video.addEventListener('loadeddata', loaded, { once: true })
    this.#watch(video)
    return () => {
      video.removeEventListener('seeked', seeked)
      video.removeEventListener('pause', paused)
      video.removeEventListener('loadeddata', loaded)
      this.#video = null
    }
  }

  /** Step through the frames of a clip whose film is not kept: the frame asked for is the one shown. */
  attachNothing(pts: readonly number[]): () => unknown {
    this.#pts = pts
    this.#filmless = true
    this.shown = this.wanted
    return () => (this.#filmless = false)
  }

  get last(): number {
    return this.#pts.length - 1
  }

  /** Go to a frame; of several asked for quickly, the last one counts. */
  go(frame: number): void {
    this.pause()
    this.wanted = Math.max(0, Math.min(this.last, Math.round(frame)))
    if (this.#filmless) this.shown = this.wanted
    else if (!this.#seeking) this.#seek()
  }

  step(by: number): void {
    this.go((this.playing ? this.shown : this.wanted) + by)
  }

  toggle(): void {
    if (!this.#video) return
    if (this.playing) return this.pause()
    this.playing = true
    this.#video.playbackRate = this.speed
    void this.#video.play().catch(() => (this.playing = false))
  }

  pause(): void {
    if (this.playing) this.#video?.pause()
  }

  cycleSpeed(): void {
    const next = SPEEDS[(SPEEDS.indexOf(this.speed) + 1) % SPEEDS.length]
    this.speed = next ?? 1
    if (this.#video) this.#video.playbackRate = this.speed
  }

  #seek(): void {
    if (!this.#video || this.#video.readyState < 1) return
    this.#seeking = true
    this.#video.currentTime = midTime(this.#pts, this.wanted)
  }

  #seeked(): void {
    this.#seeking = false
    if (this.playing || !this.#video) return
    if (frameAt(this.#pts, this.#video.currentTime) !== this.wanted) this.#seek()
    // A seek inside the frame on screen presents nothing new, so the callback below stays silent.
    else if (!('requestVideoFrameCallback' in this.#video)) this.shown = this.wanted
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
      this.shown = frameAt(this.#pts, frame.mediaTime)
      if (this.playing) this.wanted = this.shown
      video.requestVideoFrameCallback(presented)
    }
    video.requestVideoFrameCallback(presented)
  }
}
