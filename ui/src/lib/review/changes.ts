import type { BodyName, Change, Correction, Judgement, Point, Rep, RepForm, Review, Schemas } from '../api/client'

export type Verdict = Judgement['verdict']

/** Something the coach did: what to send, and what to send to take it back. */
export interface Act {
  label: string
  forward: Change[]
  backward: Change[]
}

export interface Spot {
  body: BodyName
  landmark: string
  frame: number
}

export function spotPath(rep: string, spot: Spot): string {
  return `/reps/${rep}/points/${spot.body}/${spot.landmark}/${spot.frame}`
}

export function findPoint(rep: Rep, spot: Spot): Point | undefined {
  return rep.points.find((p) => p.body === spot.body && p.landmark === spot.landmark && p.frame === spot.frame)
}

/** Place or move a point; taking it back puts it where it was. */
export function placePoint(rep: Rep, spot: Spot, x: number, y: number, hidden = findPoint(rep, spot)?.hidden ?? false, grain: number | null = null): Act {
  const path = spotPath(rep.id, spot)
  const before = findPoint(rep, spot)
  // A carried point cannot be sent back as it was: it is taken away, and comes again when points are carried anew.
  const placed = before && before.by !== 'tracked'
  return {
    label: `place ${spot.landmark}`,
    forward: [{ method: 'PUT', path, body: { x, y, hidden, grain } }],
    backward: [placed ? { method: 'PUT', path, body: { x: before.x, y: before.y, hidden: before.hidden, grain: before.grain } } : { method: 'DELETE', path }],
  }
}

export function removePoint(rep: Rep, point: Point): Act {
  const path = spotPath(rep.id, point)
  return {
    label: `remove ${point.landmark}`,
    forward: [{ method: 'DELETE', path }],
    backward: [{ method: 'PUT', path, body: { x: point.x, y: point.y, hidden: point.hidden, grain: point.grain } }],
  }
}

/** Mark an event's frames, say that it did not happen (no frames), or take the mark away (null). */
export function markEvent(rep: Rep, event: string, frames: number[] | null): Act {
  const path = `/reps/${rep.id}/events/${event}`
  const write = (wanted: number[] | null | undefined): Change =>
    wanted == null ? { method: 'DELETE', path } : { method: 'PUT', path, body: { frames: wanted } }
  return { label: `mark ${event}`, forward: [write(frames)], backward: [write(rep.events[event])] }
}

export function answer(rep: Rep, checkpoint: string, yes: boolean | null): Act {
  const path = `/reps/${rep.id}/answers/${checkpoint}`
  const write = (wanted: boolean | null | undefined): Change =>
    wanted == null ? { method: 'DELETE', path } : { method: 'PUT', path, body: { yes: wanted } }
  return { label: `answer ${checkpoint}`, forward: [write(yes)], backward: [write(rep.answers[checkpoint])] }
}

export function repForm(rep: Rep): RepForm {
  const { first_frame, last_frame, technique, options } = rep
  const { side, heading, view, partner, pace, rung, purpose, student_id } = rep as unknown as RepForm
  const { outcome, start_at, end_at, resists_from, reaction, finish, stance, grade, linked_to } = rep as unknown as RepForm
  return {
    first_frame, last_frame, side, technique, options, heading, view, partner, pace, rung, purpose, student_id,
    outcome, start_at, end_at, resists_from, reaction, finish, stance, grade, linked_to,
  }
}

export function cutRep(review: string, id: string, form: RepForm): Act {
  return {
    label: 'cut rep',
    forward: [{ method: 'PUT', path: `/reviews/${review}/reps/${id}`, body: form }],
    backward: [{ method: 'DELETE', path: `/reps/${id}` }],
  }
}

export function changeRep(review: string, rep: Rep, change: Partial<RepForm>): Act {
  const path = `/reviews/${review}/reps/${rep.id}`
  const form = repForm(rep)
  return {
    label: 'change rep',
    forward: [{ method: 'PUT', path, body: { ...form, ...change } }],
    backward: [{ method: 'PUT', path, body: form }],
  }
}

export function setProposals(review: string, before: readonly Schemas['Stretch'][], cuts: readonly Schemas['Stretch'][]): Act {
  const path = `/reviews/${review}/proposals`
  return {
    label: 'change proposed cuts',
    forward: [{ method: 'PUT', path, body: { cuts } }],
    backward: [{ method: 'PUT', path, body: { cuts: before } }],
  }
}

/** Several acts done, and taken back, as one. */
export function together(label: string, acts: readonly Act[]): Act {
  return { label, forward: acts.flatMap((act) => act.forward), backward: acts.toReversed().flatMap((act) => act.backward) }
}

export type CorrectionForm = Schemas['CorrectionIn']

function correctionForm(correction: Correction): CorrectionForm {
  const { checkpoint, frame, first_frame, last_frame, marks, cue, voice_s } = correction
  return { checkpoint, frame, first_frame, last_frame, marks, cue, voice_s, snap: false }
}

/** Make the usual correction of a missed checkpoint; the server knows its marks, frames and words. */
export function drawUsual(rep: string, id: string, checkpoint: string): Act {
  return {
    label: 'draw correction',
    forward: [{ method: 'POST', path: `/reps/${rep}/corrections/${id}/usual`, body: { checkpoint } }],
    backward: [{ method: 'DELETE', path: `/corrections/${id}` }],
  }
}

export function changeCorrection(correction: Correction, form: Partial<CorrectionForm>): Act {
  const path = `/reps/${correction.rep_id}/corrections/${correction.id}`
  const before = correctionForm(correction)
  return {
    label: 'change correction',
    forward: [{ method: 'PUT', path, body: { ...before, ...form, snap: form.marks !== undefined } }],
    backward: [{ method: 'PUT', path, body: before }],
  }
}

export function copyCorrection(correction: Correction, copies: { rep: string; id: string }[]): Act {
  return {
    label: 'copy correction',
    forward: [{ method: 'POST', path: `/corrections/${correction.id}/copy`, body: { copies } }],
    backward: copies.map(({ id }) => ({ method: 'DELETE', path: `/corrections/${id}` })),
  }
}

/** Have a picture of the same done right stand beside a correction; none takes it away. */
export function putBeside(correction: Correction, source: Schemas['BesideIn']['source']): Act {
  const write = (wanted: Schemas['BesideIn']['source']): Change => ({ method: 'PUT', path: `/corrections/${correction.id}/beside`, body: { source: wanted } })
  return { label: 'picture beside', forward: [write(source)], backward: [write(correction.beside?.source ?? null)] }
}

export interface FixChoice {
  technique: string
  checkpoint: string
}
/** Say what is fixed first, and why; no choices go back to what is recommended. */
export function chooseFixes(review: Review, choices: FixChoice[], why: string): Act {
  const path = `/reviews/${review.id}/fix-first`
  const mine = review.fix_first.filter((fix) => fix.why != null)
  const before = { choices: mine.map(({ technique, checkpoint }) => ({ technique, checkpoint })), why: mine[0]?.why ?? '' }
  return { label: 'choose what to fix first', forward: [{ method: 'PUT', path, body: { choices, why } }], backward: [{ method: 'PUT', path, body: before }] }
}

export function deleteCorrection(correction: Correction): Act {
  const { id, rep_id } = correction
  const again: Change[] = [{ method: 'PUT', path: `/reps/${rep_id}/corrections/${id}`, body: correctionForm(correction) }]
  if (correction.beside) again.push({ method: 'PUT', path: `/corrections/${id}/beside`, body: { source: correction.beside.source } })
  return { label: 'delete correction', forward: [{ method: 'DELETE', path: `/corrections/${id}` }], backward: again }
}

/** Delete a rep; taking it back cuts it again with all that was marked in it. */
export function deleteRep(review: string, rep: Rep, corrections: readonly Correction[]): Act {
  const again: Change[] = [...cutRep(review, rep.id, repForm(rep)).forward]
  for (const [event, frames] of Object.entries(rep.events))
    again.push({ method: 'PUT', path: `/reps/${rep.id}/events/${event}`, body: { frames } })
  for (const point of rep.points.filter((one) => one.by !== 'tracked'))
    again.push({ method: 'PUT', path: spotPath(rep.id, point), body: { x: point.x, y: point.y, hidden: point.hidden, grain: point.grain } })
  for (const [checkpoint, yes] of Object.entries(rep.answers))
    again.push({ method: 'PUT', path: `/reps/${rep.id}/answers/${checkpoint}`, body: { yes } })
  for (const { id, verdict, measured, because } of rep.judgements)
    if (measured != null) again.push({ method: 'PUT', path: `/reps/${rep.id}/overrules/${id}`, body: { verdict, reason: because } })
  for (const correction of corrections.filter((c) => c.rep_id === rep.id)) again.push(...deleteCorrection(correction).backward)
  return { label: 'delete rep', forward: [{ method: 'DELETE', path: `/reps/${rep.id}` }], backward: again }
}

export function setHeight(review: string, body: BodyName, px: number | null, before: number | undefined): Act {
  const path = `/reviews/${review}/heights/${body}`
  return {
    label: 'mark height',
    forward: [{ method: 'PUT', path, body: { px } }],
    backward: [{ method: 'PUT', path, body: { px: before ?? null } }],
  }
}

/** Give a verdict in place of the measured one, with the reason; null goes back to what was measured. */
export function overrule(rep: Rep, checkpoint: string, given: { verdict: Verdict; reason: string } | null): Act {
  const path = `/reps/${rep.id}/overrules/${checkpoint}`
  const before = rep.judgements.find((j) => j.id === checkpoint)
  const write = (wanted: { verdict: Verdict; reason: string } | null): Change =>
    wanted === null ? { method: 'DELETE', path } : { method: 'PUT', path, body: wanted }
  const was = before?.measured != null ? { verdict: before.verdict, reason: before.because ?? '' } : null
  return { label: `overrule ${checkpoint}`, forward: [write(given)], backward: [write(was)] }
}

/** Change one part of the frame of reference; taking it back puts it as it was. */
export function setReference(review: Review, part: 'upright' | 'centimetres_per_pixel' | 'floor', value: unknown): Act {
  const path = `/reviews/${review.id}/reference`
  const write = (wanted: unknown): Change => ({ method: 'PATCH', path, body: { [part]: wanted ?? null } })
  return { label: `set ${part}`, forward: [write(value)], backward: [write(review.reference[part])] }
}

/** Name a still frame for a body's lengths; null forgets them. */
export function readLengths(rep: Rep, body: BodyName, frame: number | null, before: number | null): Act {
  const path = `/reps/${rep.id}/lengths`
  const write = (wanted: number | null): Change => ({ method: 'PUT', path, body: { body, frame: wanted } })
  return { label: 'name a still frame', forward: [write(frame)], backward: [write(before)] }
}
