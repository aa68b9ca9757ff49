import type { Change, Checkpoint, ClipTimes, Judgement, Rep, Review, Schemas, Technique } from '../../api/client'
import type { Act } from './changes'

/** A place in the picture, pixels. */
export interface Place {
  x: number
  y: number
}
export type Tool = 'look' | 'points' | 'mark' | 'height' | 'collect'
/** First and last frame of a proposed cut. */
export type Cut = Schemas['Stretch']

/** What the parts of the bench need of its film. */
export interface Film {
  readonly shown: number
  readonly wanted: number
  go(frame: number): void
  pause(): void
}

/** What the parts of the bench know of each other: each takes only what it needs of this. */
export interface Desk {
  readonly clip: ClipTimes
  review: Review
  repId: string | null
  checkpointId: string | null
  tool: Tool
  readonly rep: Rep | null
  readonly technique: Technique | null
  readonly checkpoint: Checkpoint | null
  readonly judgement: Judgement | null
  readonly finished: boolean
  /** Changes are still on their way. */
  readonly saving: boolean
  readonly player: Film
  act(act: Act): void
  /** Send what cannot be taken back. */
  send(changes: readonly Change[]): void
  /** Tell why something was not done. */
  tell(error: unknown): void
}

/** Hundredths of a pixel are more than anybody sees. */
export function rounded(value: number): number {
  return Math.round(value * 100) / 100
}
