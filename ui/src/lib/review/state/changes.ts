import {
  write,
  type BodyName,
  type Change,
  type Correction,
  type Judgement,
  type Point,
  type Rep,
  type RepForm,
  type Review,
  type Schemas,
} from '../../api/client'

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

const POINT = '/api/reps/{rep_id}/points/{body}/{landmark}/{frame}'

function at(rep: string, { body, landmark, frame }: Spot): Spot & { rep_id: string } {
  return { rep_id: rep, body, landmark, frame }
}

function put(rep: string, spot: Spot, { x, y, hidden, grain }: Pick<Point, 'x' | 'y' | 'hidden' | 'grain'>): Change {
  return write('put', POINT, at(rep, spot), { x, y, hidden, grain })
}

export function findPoint(rep: Rep, spot: Spot): Point | undefined {
  return rep.points.find((p) => p.body === spot.body && p.landmark === spot.landmark && p.frame === spot.frame)
}

/** Place or move a point; taking it back puts it where it was. */
export function placePoint(
  rep: Rep,
  spot: Spot,
  x: number,
  y: number,
  hidden = findPoint(rep, spot)?.hidden ?? false,
  grain: number | null = null,
): Act {
  const before = findPoint(rep, spot)
  // A tracked point cannot be sent back as it was: it is deleted, and comes again when points are tracked anew.
  const placed = before && before.by !== 'tracked'
  return {
    label: `place ${spot.landmark}`,
    forward: [put(rep.id, spot, { x, y, hidden, grain })],
    backward: [placed ? put(rep.id, spot, before) : write('delete', POINT, at(rep.id, spot))],
  }
}

export function removePoint(rep: Rep, point: Point): Act {
  return {
    label: `remove ${point.landmark}`,
    forward: [write('delete', POINT, at(rep.id, point))],
    backward: [put(rep.id, point, point)],
  }
}

/** Make a frame of a rep a start that the technique is drilled from. */
export function makeStart(rep: Rep, frame: number): Act {
  const route = '/api/reps/{rep_id}/starts/{frame}'
  const names = { rep_id: rep.id, frame }
  return { label: 'make a start', forward: [write('put', route, names)], backward: [write('delete', route, names)] }
}

/** Mark an event's frames, say that it did not happen (no frames), or take the mark away (null). */
export function markEvent(rep: Rep, event: string, frames: number[] | null): Act {
  const route = '/api/reps/{rep_id}/events/{event}'
  const names = { rep_id: rep.id, event }
  const set = (wanted: number[] | null | undefined): Change =>
    wanted == null ? write('delete', route, names) : write('put', route, names, { frames: wanted })
  return { label: `mark ${event}`, forward: [set(frames)], backward: [set(rep.events[event])] }
}

export function answer(rep: Rep, checkpoint: string, yes: boolean | null): Act {
  const route = '/api/reps/{rep_id}/answers/{checkpoint}'
  const names = { rep_id: rep.id, checkpoint }
  const set = (wanted: boolean | null | undefined): Change =>
    wanted == null ? write('delete', route, names) : write('put', route, names, { yes: wanted })
  return { label: `answer ${checkpoint}`, forward: [set(yes)], backward: [set(rep.answers[checkpoint])] }
}

/** How a rep is cut and was done, without what is marked in it. */
export function repForm(rep: Rep): RepForm {
  const { first_frame, last_frame, technique, options, side, heading, view, partner, pace, rung, purpose, student_id } =
    rep
  const { outcome, layer, start, start_at, end_at, resists_from, reaction, finish, stance, grade, linked_to, nearer } =
    rep
  const { target_turn, partner_student_id } = rep
  return {
    first_frame,
    last_frame,
    side,
    technique,
    options,
    heading,
    view,
    partner,
    pace,
    rung,
    purpose,
    student_id,
    partner_student_id,
    outcome,
    layer,
    start,
    start_at,
    end_at,
    resists_from,
    reaction,
    finish,
    stance,
    grade,
    linked_to,
    nearer,
    target_turn,
  }
}

function cut(review: string, rep: string, form: RepForm): Change {
  return write('put', '/api/reviews/{review_id}/reps/{rep_id}', { review_id: review, rep_id: rep }, form)
}

export function cutRep(review: string, id: string, form: RepForm): Act {
  return {
    label: 'cut rep',
    forward: [cut(review, id, form)],
    backward: [write('delete', '/api/reps/{rep_id}', { rep_id: id })],
  }
}

export function changeRep(review: string, rep: Rep, change: Partial<RepForm>): Act {
  const form = repForm(rep)
  return {
    label: 'change rep',
    forward: [cut(review, rep.id, { ...form, ...change })],
    backward: [cut(review, rep.id, form)],
  }
}

/** Say that a joint is nearer to the camera than what it hangs on, or farther away; null takes back what was said. */
export function sayNearer(review: string, rep: Rep, spot: Spot, nearer: boolean | null): Act {
  const { body, landmark, frame } = spot
  const others = (rep.nearer ?? []).filter(
    (one) => one.body !== body || one.landmark !== landmark || one.frame !== frame,
  )
  const told = nearer === null ? others : [...others, { body, landmark, frame, nearer }]
  return { ...changeRep(review, rep, { nearer: told }), label: `say where ${landmark} is` }
}

/** How well a coach tells that turn by eye, degrees. */
const TARGET_U = 5

/** Say how far the line to the target is turned away from the camera, degrees; null takes it back. */
export function sayTargetTurn(review: string, rep: Rep, deg: number | null): Act {
  const told = deg === null ? null : { deg, u: TARGET_U }
  return { ...changeRep(review, rep, { target_turn: told }), label: 'say where the target lies' }
}

export function setProposals(
  review: string,
  before: readonly Schemas['Stretch'][],
  cuts: readonly Schemas['Stretch'][],
): Act {
  const set = (wanted: readonly Schemas['Stretch'][]): Change =>
    write('put', '/api/reviews/{review_id}/proposals', { review_id: review }, { cuts: [...wanted] })
  return { label: 'change proposed cuts', forward: [set(cuts)], backward: [set(before)] }
}

/** Have a rep's bodies tracked through a stretch; there is nothing to take back, as placed points stay. */
export function trackPoints(rep: Rep): Change {
  return write('post', '/api/reps/{rep_id}/track', { rep_id: rep.id }, { first: rep.first_frame, last: rep.last_frame })
}

export function removeTracked(rep: Rep): Change {
  return write('delete', '/api/reps/{rep_id}/tracked', { rep_id: rep.id })
}

/** Several acts done, and taken back, as one. */
export function together(label: string, acts: readonly Act[]): Act {
  return {
    label,
    forward: acts.flatMap((act) => act.forward),
    backward: acts.toReversed().flatMap((act) => act.backward),
  }
}

export type CorrectionForm = Schemas['CorrectionIn']

function correctionForm(correction: Correction): CorrectionForm {
  const { checkpoint, frame, first_frame, last_frame, marks, cue, voice_s } = correction
  return { checkpoint, frame, first_frame, last_frame, marks, cue, voice_s, snap: false }
}

const CORRECTION = '/api/corrections/{correction_id}'
const DRAWN = '/api/reps/{rep_id}/corrections/{correction_id}'

/** Make the default correction of a missed checkpoint; the server knows its marks, frames and words. */
export function drawDefault(rep: string, id: string, checkpoint: string): Act {
  return {
    label: 'draw correction',
    forward: [write('post', `${DRAWN}/default`, { rep_id: rep, correction_id: id }, { checkpoint })],
    backward: [write('delete', CORRECTION, { correction_id: id })],
  }
}

export function changeCorrection(correction: Correction, form: Partial<CorrectionForm>): Act {
  const names = { rep_id: correction.rep_id, correction_id: correction.id }
  const before = correctionForm(correction)
  return {
    label: 'change correction',
    forward: [write('put', DRAWN, names, { ...before, ...form, snap: form.marks !== undefined })],
    backward: [write('put', DRAWN, names, before)],
  }
}

export function copyCorrection(correction: Correction, copies: { rep: string; id: string }[]): Act {
  return {
    label: 'copy correction',
    forward: [write('post', `${CORRECTION}/copy`, { correction_id: correction.id }, { copies })],
    backward: copies.map(({ id }) => write('delete', CORRECTION, { correction_id: id })),
  }
}

type Source = Schemas['ExampleIn']['source']

/** Have a picture of the same done right stand beside a correction; none takes it away. */
export function putExample(correction: Correction, source: Source): Act {
  const set = (wanted: Source): Change =>
    write('put', `${CORRECTION}/example`, { correction_id: correction.id }, { source: wanted })
  return { label: 'example', forward: [set(source)], backward: [set(correction.example?.source ?? null)] }
}

export type FixChoice = Schemas['Choice']

/** Say what is fixed first, and why; no choices go back to what is recommended. */
export function chooseFixes(review: Review, choices: FixChoice[], why: string): Act {
  const set = (wanted: FixChoice[], reason: string): Change =>
    write('put', '/api/reviews/{review_id}/fix-first', { review_id: review.id }, { choices: wanted, why: reason })
  const mine = review.fix_first.filter((fix) => fix.why != null)
  const before = mine.map(({ technique, checkpoint }) => ({ technique, checkpoint }))
  return {
    label: 'choose what to fix first',
    forward: [set(choices, why)],
    backward: [set(before, mine[0]?.why ?? '')],
  }
}

export function deleteCorrection(correction: Correction): Act {
  const names = { rep_id: correction.rep_id, correction_id: correction.id }
  const again = [write('put', DRAWN, names, correctionForm(correction))]
  if (correction.example)
    again.push(
      write('put', `${CORRECTION}/example`, { correction_id: correction.id }, { source: correction.example.source }),
    )
  return {
    label: 'delete correction',
    forward: [write('delete', CORRECTION, { correction_id: correction.id })],
    backward: again,
  }
}

export function dropVoice(correction: Correction): Change {
  return write('delete', `${CORRECTION}/voice`, { correction_id: correction.id })
}

/** Delete a rep; taking it back cuts it again with all that was marked in it. */
export function deleteRep(review: string, rep: Rep, corrections: readonly Correction[]): Act {
  const again: Change[] = [cut(review, rep.id, repForm(rep))]
  for (const [event, frames] of Object.entries(rep.events)) again.push(...markEvent(rep, event, frames).forward)
  for (const point of rep.points.filter((one) => one.by !== 'tracked')) again.push(put(rep.id, point, point))
  for (const [checkpoint, yes] of Object.entries(rep.answers)) again.push(...answer(rep, checkpoint, yes).forward)
  for (const { id, verdict, measured, because } of rep.judgements)
    if (measured != null) again.push(...overrule(rep, id, { verdict, reason: because ?? '' }).forward)
  for (const correction of corrections.filter((c) => c.rep_id === rep.id))
    again.push(...deleteCorrection(correction).backward)
  return { label: 'delete rep', forward: [write('delete', '/api/reps/{rep_id}', { rep_id: rep.id })], backward: again }
}

export function setHeight(review: string, body: BodyName, px: number | null, before: number | undefined): Act {
  const set = (wanted: number | null): Change =>
    write('put', '/api/reviews/{review_id}/heights/{body}', { review_id: review, body }, { px: wanted })
  return { label: 'mark height', forward: [set(px)], backward: [set(before ?? null)] }
}

/** Give a verdict in place of the measured one, with the reason; null goes back to what was measured. */
export function overrule(rep: Rep, checkpoint: string, given: { verdict: Verdict; reason: string } | null): Act {
  const route = '/api/reps/{rep_id}/overrules/{checkpoint}'
  const names = { rep_id: rep.id, checkpoint }
  const before = rep.judgements.find((j) => j.id === checkpoint)
  const set = (wanted: { verdict: Verdict; reason: string } | null): Change =>
    wanted === null ? write('delete', route, names) : write('put', route, names, wanted)
  const was = before?.measured != null ? { verdict: before.verdict, reason: before.because ?? '' } : null
  return { label: `overrule ${checkpoint}`, forward: [set(given)], backward: [set(was)] }
}

type Reference = Schemas['ReferenceIn']

/** Change one part of the frame of reference; taking it back puts it as it was. */
export function setReference<Part extends keyof Reference>(review: Review, part: Part, value: Reference[Part]): Act {
  const set = (wanted: Reference[Part] | null): Change =>
    write('patch', '/api/reviews/{review_id}/reference', { review_id: review.id }, { [part]: wanted } as Reference)
  return {
    label: `set ${part}`,
    forward: [set(value ?? null)],
    backward: [set((review.reference[part] ?? null) as Reference[Part] | null)],
  }
}

/** Name a still frame for a body's lengths; null forgets them. */
export function readLengths(rep: Rep, body: BodyName, frame: number | null, before: number | null): Act {
  const set = (wanted: number | null): Change =>
    write('put', '/api/reps/{rep_id}/lengths', { rep_id: rep.id }, { body, frame: wanted })
  return { label: 'name a still frame', forward: [set(frame)], backward: [set(before)] }
}
