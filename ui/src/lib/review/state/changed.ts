import type { Judgement, Review } from '../../api/client'

/** A verdict that is not what it was: of which rep and checkpoint, before and now. */
export interface ChangedVerdict {
  rep: string
  checkpoint: string
  before: Judgement['verdict']
  now: Judgement['verdict']
}

/** The verdicts of reps that are in both, where they differ. */
export function changedVerdicts(before: Pick<Review, 'reps'>, now: Pick<Review, 'reps'>): ChangedVerdict[] {
  return now.reps.flatMap((rep) => {
    const last = before.reps.find((other) => other.id === rep.id)
    if (!last || last === rep) return []
    const known = new Map(last.judgements.map((one) => [one.id, one.verdict]))
    return rep.judgements.flatMap((one) => {
      const was = known.get(one.id)
      return was !== undefined && was !== one.verdict
        ? [{ rep: rep.id, checkpoint: one.id, before: was, now: one.verdict }]
        : []
    })
  })
}
