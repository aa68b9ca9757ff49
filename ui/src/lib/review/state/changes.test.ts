import { describe, expect, it } from 'vitest'
import type { Correction, Rep, Review } from '../../api/client'
import {
  answer,
  changeCorrection,
  changeRep,
  copyCorrection,
  deleteCorrection,
  deleteRep,
  markEvent,
  overrule,
  placePoint,
  putExample,
  readLengths,
  removePoint,
  repForm,
  setHeight,
  setReference,
} from './changes'

const rep = {
  id: 'rep',
  technique: 'front-kick',
  first_frame: 3,
  last_frame: 90,
  side: 'right',
  heading: 'right',
  view: 'side',
  partner: 'none',
  pace: 'full',
  rung: null,
  purpose: 'attempt',
  options: {},
  technique_version: 1,
  events: { knee_top: [31], stumble: [] },
  answers: { toes_back: false },
  judgements: [],
  needs: [],
  points: [
    { body: 'performer', landmark: 'right_knee', frame: 31, x: 5, y: 6, hidden: false, by: 'placed' },
    { body: 'performer', landmark: 'right_knee', frame: 32, x: 6, y: 6, hidden: false, by: 'tracked' },
  ],
} as unknown as Rep
const spot = { body: 'performer', landmark: 'right_knee', frame: 31 } as const
const correction = {
  id: 'c',
  rep_id: 'rep',
  checkpoint: 'x',
  fault: 'f',
  frame: 4,
  first_frame: 2,
  last_frame: 6,
  cue: 'Up',
  has_still: true,
  voice_s: 3,
  marks: [{ kind: 'look', spots: [{ body: 'performer', landmark: 'right_knee', dx: 0, dy: 0 }], words: '' }],
  example: null,
} satisfies Correction

describe('taking things back', () => {
  it('a moved point goes back to where it was; a new one goes away', () => {
    expect(placePoint(rep, spot, 9, 9).backward[0]).toMatchObject({ method: 'PUT', body: { x: 5, y: 6 } })
    expect(placePoint(rep, { ...spot, frame: 40 }, 9, 9).backward[0]).toMatchObject({ method: 'DELETE' })
  })
  it('a removed point comes back', () => {
    const point = rep.points[0]
    if (!point) throw new Error('no point')
    expect(removePoint(rep, point).backward[0]).toMatchObject({ method: 'PUT', body: { x: 5, y: 6 } })
  })
  it.each([
    ['knee_top', { method: 'PUT', body: { frames: [31] } }],
    ['stumble', { method: 'PUT', body: { frames: [] } }],
    ['foot_down', { method: 'DELETE' }],
  ])('marking %s anew goes back to what it was', (event, before) => {
    expect(markEvent(rep, event, [50]).backward[0]).toMatchObject(before)
  })
  it('an answer goes back to the earlier one, or to none', () => {
    expect(answer(rep, 'toes_back', true).backward[0]).toMatchObject({ body: { yes: false } })
    expect(answer(rep, 'hands_up', true).backward[0]).toMatchObject({ method: 'DELETE' })
  })
  it('a changed rep goes back whole', () => {
    expect(changeRep('r', rep, { side: 'left' }).backward[0]?.body).toEqual(repForm(rep))
  })
  it('a deleted rep comes back with its events, points, answers and corrections', () => {
    const paths = deleteRep('r', rep, [correction]).backward.map((change) => change.path)
    expect(paths).toEqual([
      '/reviews/r/reps/rep',
      '/reps/rep/events/knee_top',
      '/reps/rep/events/stumble',
      '/reps/rep/points/performer/right_knee/31',
      '/reps/rep/answers/toes_back',
      '/reps/rep/corrections/c',
    ])
  })
  it('a deleted correction comes back as it was', () => {
    const example = { source: 'own' as const, words: 'Your rep', ready: true, film: false, shapes: [], options: {} }
    const [drawn, picture] = deleteCorrection({ ...correction, example }).backward
    expect(drawn?.body).toMatchObject({ cue: 'Up', first_frame: 2, voice_s: 3, marks: correction.marks, snap: false })
    expect(picture).toMatchObject({ path: '/corrections/c/example', body: { source: 'own' } })
  })
  it('a changed correction goes back whole, and only new places are hung on landmarks', () => {
    expect(changeCorrection(correction, { cue: 'Higher' }).forward[0]?.body).toMatchObject({
      cue: 'Higher',
      snap: false,
    })
    const { forward, backward } = changeCorrection(correction, { marks: [] })
    expect(forward[0]?.body).toMatchObject({ marks: [], snap: true })
    expect(backward[0]?.body).toMatchObject({ marks: correction.marks, snap: false })
  })
  it('copies of a correction are taken away again', () => {
    const act = copyCorrection(correction, [
      { rep: 'r2', id: 'c2' },
      { rep: 'r3', id: 'c3' },
    ])
    expect(act.backward).toEqual([
      { method: 'DELETE', path: '/corrections/c2' },
      { method: 'DELETE', path: '/corrections/c3' },
    ])
  })
  it('the picture beside goes back to the one before, or to none', () => {
    expect(putExample(correction, 'own').backward[0]?.body).toEqual({ source: null })
  })
  it('an overruled verdict goes back to the one before, or to what was measured', () => {
    const given = { verdict: 'missed' as const, reason: 'the heel was up' }
    expect(overrule(rep, 'toes_back', given).backward[0]).toMatchObject({ method: 'DELETE' })
    const judged = {
      ...rep,
      judgements: [{ id: 'toes_back', verdict: 'met', measured: 'missed', because: 'seen live' }],
    } as unknown as Rep
    expect(overrule(judged, 'toes_back', null).backward[0]?.body).toEqual({ verdict: 'met', reason: 'seen live' })
  })
  it('a part of the frame of reference goes back to what it was, or is forgotten again', () => {
    const review = { id: 'r', reference: { upright: { deg: 2, u: 1 } } } as unknown as Review
    expect(setReference(review, 'upright', { deg: 5, u: 1 }).backward[0]?.body).toEqual({ upright: { deg: 2, u: 1 } })
    expect(setReference(review, 'centimetres_per_pixel', 0.4).backward[0]?.body).toEqual({
      centimetres_per_pixel: null,
    })
    expect(readLengths(rep, 'performer', 40, null).backward[0]?.body).toEqual({ body: 'performer', frame: null })
  })
  it('a tracked point that was moved is removed again, as it comes with the next tracking', () => {
    expect(placePoint(rep, { ...spot, frame: 32 }, 9, 9).backward[0]).toMatchObject({ method: 'DELETE' })
  })
  it('a height that was not known is forgotten again', () => {
    expect(setHeight('r', 'performer', 400, undefined).backward[0]?.body).toEqual({ px: null })
  })
})
