import * as changes from './changes'
import type { Desk } from './desk'

/** What is fixed first: as recommended, or as the coach chooses, with the reason. */
export class Fixes {
  /** True while the coach writes why the current checkpoint is to be fixed first. */
  choosing = $state(false)

  constructor(
    private readonly desk: Pick<Desk, 'review' | 'rep' | 'checkpointId' | 'judgement' | 'finished' | 'act'>,
  ) {}

  get can(): boolean {
    const { rep, checkpointId, finished, judgement, review } = this.desk
    const chosen = review.fix_first.some((fix) => fix.why != null && fix.checkpoint === checkpointId)
    return !finished && rep !== null && !rep.blind_of && judgement?.counts_as_missed === true && !chosen
  }
  /** Have the current checkpoint fixed first; of what stood there the first stays second. */
  choose(why: string): void {
    const { rep, checkpointId, review } = this.desk
    if (!rep || !checkpointId) return
    const others = review.fix_first.filter((fix) => fix.checkpoint !== checkpointId || fix.technique !== rep.technique)
    const second = others[0] ? [{ technique: others[0].technique, checkpoint: others[0].checkpoint }] : []
    this.desk.act(changes.chooseFixes(review, [{ technique: rep.technique, checkpoint: checkpointId }, ...second], why))
    this.choosing = false
  }
  asRecommended(): void {
    this.desk.act(changes.chooseFixes(this.desk.review, [], ''))
  }
}
