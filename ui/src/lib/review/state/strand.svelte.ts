import type { Traces } from '../../api/client'
import { frameAt } from '../../player/frames'
import type { Desk } from './desk'

export interface Span {
  from: number
  to: number
}
const LEAST_SPAN = 8

/** The strand of frames: what stretch it shows, and going from mark to mark along it. */
export class StrandView {
  /** What the coach has zoomed to; null for the rep with a margin, else for the whole clip. */
  span = $state<Span | null>(null)
  traces = $state.raw<Traces | null>(null)
  /** Opens the field for a frame number; set by the strand. */
  typeFrame: () => void = () => undefined

  constructor(private readonly desk: Pick<Desk, 'clip' | 'rep' | 'review' | 'player'>) {}

  get #last(): number {
    return Math.max(this.desk.clip.pts_s.length - 1, 1)
  }

  /** First and last frame on the strand. */
  get shown(): Span {
    const last = this.#last
    if (this.span) return this.span
    const { rep } = this.desk
    if (!rep) return { from: 0, to: last }
    const margin = Math.max(4, Math.round((rep.last_frame - rep.first_frame) * 0.08))
    return { from: Math.max(0, rep.first_frame - margin), to: Math.min(last, rep.last_frame + margin) }
  }

  /** Show `factor` times as many frames, the frame `about` staying where it is. */
  zoom(factor: number, about = this.desk.player.shown): void {
    const last = this.#last
    const { from, to } = this.shown
    const length = Math.max(LEAST_SPAN, Math.min(last, (to - from) * factor))
    const share = to > from ? Math.max(0, Math.min(1, (about - from) / (to - from))) : 0.5
    const start = Math.max(0, Math.min(last - length, about - share * length))
    this.span = { from: Math.round(start), to: Math.round(start + length) }
  }

  /** Bring the frame on screen onto the strand. */
  follow(): void {
    const { span } = this
    const at = this.desk.player.shown
    if (!span || (at >= span.from && at <= span.to)) return
    const length = span.to - span.from
    const from = Math.max(0, Math.min(this.#last - length, Math.round(at - length / 2)))
    this.span = { from, to: from + length }
  }

  /** Go to the next or last thing marked: an event, a sound, the end of a rep or of a proposed cut. */
  jump(by: 1 | -1): void {
    const { clip, review, rep, player } = this.desk
    const sounds = (this.traces?.onsets ?? []).map((onset) => frameAt(clip.pts_s, onset.time_s))
    const events = Object.values(rep?.events ?? {}).flat()
    const ends = [
      ...review.reps.map((one) => [one.first_frame, one.last_frame]),
      ...review.proposals.map((cut) => [cut.first, cut.last]),
    ].flat()
    const places = [...new Set([...sounds, ...events, ...ends])].sort((a, b) => a - b)
    const at = player.wanted
    const found = by > 0 ? places.find((place) => place > at) : places.findLast((place) => place < at)
    if (found !== undefined) player.go(found)
  }
}
