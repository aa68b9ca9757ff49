import type { BodyName, Change, Correction, Point, Rep, RepForm, Schemas } from '../api/client'

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
export function placePoint(rep: Rep, spot: Spot, x: number, y: number): Act {
  const path = spotPath(rep.id, spot)
  const before = findPoint(rep, spot)
  return {
    label: `place ${spot.landmark}`,
    forward: [{ method: 'PUT', path, body: { x, y } }],
    backward: [before ? { method: 'PUT', path, body: { x: before.x, y: before.y } } : { method: 'DELETE', path }],
  }
}

export function removePoint(rep: Rep, point: Point): Act {
  const path = spotPath(rep.id, point)
  return {
    label: `remove ${point.landmark}`,
    forward: [{ method: 'DELETE', path }],
    backward: [{ method: 'PUT', path, body: { x: point.x, y: point.y } }],
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
  return { first_frame, last_frame, side, technique, options, heading, view, partner, pace, rung, purpose, student_id }
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

export function drawCorrection(rep: string, id: string, form: Omit<Correction, 'id' | 'rep_id' | 'has_still'>): Act {
  return {
    label: 'draw correction',
    forward: [{ method: 'PUT', path: `/reps/${rep}/corrections/${id}`, body: form }],
    backward: [{ method: 'DELETE', path: `/corrections/${id}` }],
  }
}

export function deleteCorrection(correction: Correction): Act {
  const { id, rep_id, has_still: _, ...form } = correction
  const drawn = drawCorrection(rep_id, id, form)
  return { label: 'delete correction', forward: drawn.backward, backward: drawn.forward }
}

/** Delete a rep; taking it back cuts it again with all that was marked in it. */
export function deleteRep(review: string, rep: Rep, corrections: readonly Correction[]): Act {
  const again: Change[] = [...cutRep(review, rep.id, repForm(rep)).forward]
  for (const [event, frames] of Object.entries(rep.events))
    again.push({ method: 'PUT', path: `/reps/${rep.id}/events/${event}`, body: { frames } })
  for (const point of rep.points) again.push({ method: 'PUT', path: spotPath(rep.id, point), body: { x: point.x, y: point.y } })
  for (const [checkpoint, yes] of Object.entries(rep.answers))
    again.push({ method: 'PUT', path: `/reps/${rep.id}/answers/${checkpoint}`, body: { yes } })
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
