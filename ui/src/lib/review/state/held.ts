import { send, type Change, type Review } from '../../api/client'

/** So many reps are told at most; a review of more is answered with all its points. */
const MOST = 400

/**
 * Send a change of a review that is on the screen. The server leaves out the points that are on it already: they are most of an
 * answer, and a mark leaves those of the other reps as they are.
 */
export async function sendOf(review: Review, change: Change): Promise<Review> {
  const versions = review.reps.map((rep) => rep.points_version)
  return filled(await send(change, versions.length > MOST ? {} : { 'X-Points': versions.join(',') }), review)
}

/** An answer with the points that it left out, as they are on the screen. */
export function filled(answer: Review, before: Review): Review {
  const known = new Map(before.reps.map((rep) => [rep.points_version, rep.points]))
  const reps = answer.reps.map((rep) =>
    rep.points_held ? { ...rep, points: known.get(rep.points_version) ?? [], points_held: false } : rep,
  )
  return { ...answer, reps }
}
