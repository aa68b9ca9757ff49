import { client, send, unwrap, write, type Review, type Schemas } from '../../api/client'
import type { Desk } from './desk'

type Scatter = Schemas['BlindRemarkingOut']
type Needs = Pick<Desk, 'review' | 'rep' | 'finished' | 'saving' | 'tell'> & {
  choose(rep: string): void
  refresh(): Promise<void>
}

/** Marking a rep a second time, blind, to learn how closely one marks. */
export class BlindRemarking {
  /** How closely the coach marks, once a blind marking was compared. */
  scatter = $state.raw<Scatter | null>(null)

  constructor(
    private readonly desk: Needs,
    private readonly asked = {
      begin: (rep: string): Promise<Review> => send(write('post', '/api/reps/{rep_id}/again', { rep_id: rep })),
      compare: (rep: string): Promise<Scatter> =>
        unwrap(client.POST('/api/reps/{rep_id}/compare', { params: { path: { rep_id: rep } } })),
    },
  ) {}

  get can(): boolean {
    const { rep, finished } = this.desk
    return (
      !finished &&
      rep !== null &&
      !rep.blind_of &&
      (Object.keys(rep.events).length > 0 || rep.points.some((point) => point.by === 'placed'))
    )
  }
  /** Begin to mark the current rep a second time, with nothing of the first time to be seen. */
  async begin(): Promise<void> {
    const { rep, saving } = this.desk
    if (!rep || !this.can || saving) return
    try {
      this.desk.review = await this.asked.begin(rep.id)
      this.scatter = null
      this.desk.choose(this.desk.review.reps.find((other) => other.blind_of === rep.id)?.id ?? rep.id)
    } catch (error) {
      this.desk.tell(error)
    }
  }
  /** Compare the blind marking with the first one; the coach's own scatter is kept. */
  async compare(): Promise<void> {
    const { rep, saving } = this.desk
    if (!rep?.blind_of || saving) return
    try {
      this.scatter = await this.asked.compare(rep.id)
      await this.desk.refresh()
    } catch (error) {
      this.desk.tell(error)
    }
  }
}
