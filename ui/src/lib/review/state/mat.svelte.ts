import { client, unwrap, type Schemas } from '../../api/client'
import type { Desk } from './desk'

type Ground = Schemas['Ground']

/** The rep over the mat, seen from above. */
export class OverMat {
  /** What the rep does over the mat, frame by frame; read while it is looked at. */
  ground = $state.raw<Ground[]>([])
  /** The coach asked for it. */
  asked = $state(false)

  constructor(
    private readonly desk: Pick<Desk, 'rep' | 'repId' | 'checkpoint' | 'tell'>,
    private readonly fetched = (rep: string): Promise<Ground[]> =>
      unwrap(client.GET('/api/reps/{rep_id}/ground', { params: { path: { rep_id: rep } } })),
  ) {}

  /** It is asked for, or the checkpoint reads balance or the mat. */
  get shown(): boolean {
    return this.asked || ['floor', 'balance'].includes(this.desk.checkpoint?.kind ?? '')
  }
  async read(): Promise<void> {
    const { rep } = this.desk
    if (!rep) return void (this.ground = [])
    try {
      const found = await this.fetched(rep.id)
      if (rep.id === this.desk.repId) this.ground = found
    } catch (error) {
      this.desk.tell(error)
    }
  }
}
