import { describe, expect, it } from 'vitest'
import { TechniqueFile } from './file'
import { absolute, begun, formOf, partsOf, relative, rulerOf, type Form } from './forms'
import { angleOf, sector } from './pose'

const ANGLE: Form = {
  id: 'angle',
  kind: 'angle',
  name: 'How bent a joint is',
  fault: 'half range',
  says: 'The angle at the {joint}, between the {first} and the {last}, when {at}',
  places: [
    { key: 'joint', of: 'point', path: ['points', 1], usual: 'working_knee', choices: [] },
    { key: 'first', of: 'point', path: ['points', 0], usual: 'working_hip', choices: [] },
    { key: 'last', of: 'point', path: ['points', 2], usual: 'working_ankle', choices: [] },
    { key: 'at', of: 'event', path: ['at'], usual: 1, choices: [] },
  ],
  fixed: [],
  blank: { points: ['working_hip', 'working_knee', 'working_ankle'], at: null },
  wanted: { least: 0, most: 180, step: 1, times: 1, unit: '°', usual: [155, null] },
  in_lengths: null,
}
const HEIGHT: Form = {
  ...ANGLE,
  id: 'height',
  kind: 'relation',
  fixed: [{ path: ['above'], value: 'mat' }],
  places: [{ key: 'point', of: 'point', path: ['point'], usual: 'working_knee', choices: [] }],
  blank: { above: 'mat', point: 'working_knee' },
}
const written = (kind: string, measure: unknown) =>
  new TechniqueFile(JSON.stringify({ checkpoints: [{ kind, measure }] }))
const found = (kind: string, measure: unknown) => formOf(written(kind, measure), ['checkpoints', 0], [ANGLE, HEIGHT])

describe('forms', () => {
  it('begins with the usual points and the events that lie where they are wanted', () => {
    expect(begun(ANGLE, ['begins', 'middle', 'reached'])).toEqual({
      points: ['working_hip', 'working_knee', 'working_ankle'],
      at: 'reached',
    })
    expect(begun(ANGLE, [])['at']).toBe('')
    expect(ANGLE.blank['at']).toBeNull()
  })
  it('reads its own writing, and nothing that says more', () => {
    const measure = begun(ANGLE, ['reached'])
    expect(found('angle', measure)?.id).toBe('angle')
    expect(found('angle', { ...measure, signed: true })).toBeUndefined()
    expect(found('angle', { ...measure, at: { event: 'reached', nth: 2 } })).toBeUndefined()
    expect(found('gap', measure)).toBeUndefined()
    expect(found('relation', { point: 'neck', above: 'mat' })?.id).toBe('height')
    expect(found('relation', { point: 'neck', above: 'chin' })).toBeUndefined()
  })
  it('reads choices, lists of events and measures in measures', () => {
    const unit = {
      key: 'unit',
      of: 'choice',
      path: ['unit'],
      usual: 'height',
      choices: [
        ['height', 'a'],
        ['foot', 'feet'],
      ],
    }
    const gap = { ...HEIGHT, id: 'gap', kind: 'gap', fixed: [], places: [...HEIGHT.places, unit] } as Form
    const long = { least: 0, most: 4, step: 0.05, times: 1, unit: '', usual: [null, 0.5] as (number | null)[] }
    const order = {
      ...HEIGHT,
      kind: 'order',
      fixed: [],
      places: [{ key: 'events', of: 'events', path: ['events'], usual: 0, choices: [] }],
      blank: { events: null },
    } as Form
    const change = {
      ...ANGLE,
      kind: 'change',
      fixed: [{ path: ['of', 'kind'], value: 'angle' }],
      places: [{ key: 'joint', of: 'point', path: ['of', 'points', 1], usual: 'a', choices: [] }],
    } as Form
    const is = (kind: string, measure: unknown) =>
      formOf(written(kind, measure), ['checkpoints', 0], [gap, order, change])?.kind
    expect(is('gap', { point: 'neck' })).toBe('gap')
    expect(is('gap', { point: 'neck', unit: 'foot' })).toBe('gap')
    expect(is('gap', { point: 'neck', unit: 'mile' })).toBeUndefined()
    expect(is('order', { events: ['a', 'b', 'c'] })).toBe('order')
    expect(is('order', { events: ['a', { event: 'b', nth: 2 }] })).toBeUndefined()
    expect(begun(order, ['a', 'b', 'c'])).toEqual({ events: ['a', 'c'] })
    expect(is('change', { of: { kind: 'angle', points: ['x', 'y'] } })).toBeUndefined()
    expect(is('change', { of: { kind: 'gap' } })).toBeUndefined()
    expect(rulerOf({ ...gap, in_lengths: long }, { unit: 'foot' })).toEqual({ ...long, unit: 'feet' })
    expect(rulerOf({ ...gap, in_lengths: long }, {})).toEqual(gap.wanted)
  })
  it('cuts its sentence into words and places', () => {
    const parts = partsOf(ANGLE).map((part) => (typeof part === 'string' ? part : part.key))
    expect(parts.slice(0, 4)).toEqual(['The angle at the ', 'joint', ', between the ', 'first'])
  })
  it('names a landmark as the file does, and back', () => {
    for (const body of ['performer', 'partner'])
      for (const joint of ['right_knee', 'left_toe', 'mid_hip', 'neck'])
        for (const sides of [
          ['working', 'other'],
          ['lead', 'rear'],
          ['near', 'far'],
        ] as const)
          expect(absolute(relative(joint, body, sides))).toEqual({ body, joint })
    expect(relative('left_toe', 'partner', ['near', 'far'])).toBe('partner.far_toe')
  })
})

describe('a range on the figure', () => {
  const knee = [
    { x: 0, y: -1 },
    { x: 0, y: 0 },
    { x: 1, y: 0 },
  ]
  it('is counted from the first arm, towards the last one', () => {
    const fan = sector('joint', knee, [30, 120])
    expect(fan).not.toBeNull()
    if (!fan) return
    expect(angleOf(fan, { x: 1, y: 0 })).toBeCloseTo(90)
    for (const end of fan.ends) expect(angleOf(fan, end)).toBeCloseTo(end.degrees)
    const other = sector('joint', [...knee].reverse(), [30, 120])
    expect(other && angleOf(other, { x: 0, y: -1 })).toBeCloseTo(90)
  })
  it('is held between 0 and 180', () => {
    const fan = sector('joint', knee, [null, null])
    expect(fan && angleOf(fan, { x: -0.1, y: -1 })).toBe(0)
    expect(fan && angleOf(fan, { x: -0.1, y: 1 })).toBe(180)
  })
  it('is counted from upright for a lean, to the side that leans', () => {
    const fan = sector('lean', [knee[1]!, { x: -1, y: -1 }], [null, 30])
    expect(fan && angleOf(fan, { x: -1, y: -1 })).toBeCloseTo(45)
    expect(sector('lean', [], [null, 30])).toBeNull()
  })
})
