import type { Job, Review } from '../../api/client'
import { jobOf, runs } from '../../jobs/jobs'
import * as changes from './changes'
import type { Desk } from './desk'

/** Tracking the bodies through the current rep: asked for here, done by the worker. */
export class Tracking {
  constructor(
    private readonly desk: Pick<Desk, 'review' | 'rep' | 'finished' | 'send'> & { readonly reps: Review['reps'] },
  ) {}

  /** How far it is, or how it ended; null where it was never asked for. */
  get job(): Job | null {
    const { review, rep } = this.desk
    return rep ? jobOf(review.jobs, 'track_points', rep.id) : null
  }
  get runs(): boolean {
    return runs(this.job)
  }
  /** Where points were lost, in sentences. */
  get lost(): readonly string[] {
    return this.desk.rep?.tracked?.lost ?? []
  }
  /** Something is placed here, or another rep tells about where the bodies are. */
  get can(): boolean {
    const { rep, finished, reps } = this.desk
    if (!rep || finished || this.runs || rep.blind_of) return false
    return (
      rep.points.some((point) => point.by === 'placed') ||
      reps.some((other) => other.id !== rep.id && other.student_id === rep.student_id && other.points.length > 0)
    )
  }
  start(): void {
    const { rep } = this.desk
    if (rep && this.can) this.desk.send([changes.trackPoints(rep)])
  }
  remove(): void {
    const { rep } = this.desk
    if (rep) this.desk.send([changes.removeTracked(rep)])
  }
}
