import { describe, expect, it } from 'vitest'
import { named, TechniqueFile } from './file'

const COMMENTED = `# Ours.
lacertus_technique: 1
id: our-kick # never changed
phases: [start, finish]
events:
  begins: {phase: start, mark: First frame in which the foot leaves the mat}
  reached: {phase: finish, mark: First frame in which the knee no longer straightens} # by eye
checkpoints:
  - id: leg_long
    phase: finish
    kind: angle
    measure: {points: [working_hip, working_knee, working_ankle], at: reached}
  - id: in_order
    phase: finish
    kind: order
    measure: {events: [begins, {event: reached, nth: 2}]}
    branch: {ducks: [reached]}
`

describe('a technique file in steps', () => {
  it('tells what stands where, and nothing where nothing stands', () => {
    const file = new TechniqueFile(COMMENTED)
    expect(file.words(['id'])).toBe('our-kick')
    expect(file.list(['phases'])).toEqual(['start', 'finish'])
    expect(file.keys(['events'])).toEqual(['begins', 'reached'])
    expect(file.words(['checkpoints', 7, 'ask'])).toBe('')
    expect(file.list(['names'])).toEqual([])
  })
  it('sets and deletes, and leaves comments and all else', () => {
    const text = new TechniqueFile(COMMENTED).with([['checkpoints', 0, 'ask'], 'Leg: long'], [['phases'], undefined])
    const file = new TechniqueFile(text)
    expect(file.words(['checkpoints', 0, 'ask'])).toBe('Leg: long')
    expect(file.at(['phases'])).toBeUndefined()
    expect(text).toContain('# Ours.')
    expect(text).toContain('# never changed')
    expect(file.at(['checkpoints', 1])).toEqual(new TechniqueFile(COMMENTED).at(['checkpoints', 1]))
  })
  it('keeps words that look like numbers, dates or truths as words', () => {
    for (const words of ['12', 'yes', 'null', '2026-05-04', '- a', 'a: b', '# no', 'two\nlines', ' ']) {
      const text = new TechniqueFile(COMMENTED).with([['summary'], words])
      expect(new TechniqueFile(text).at(['summary'])).toBe(words)
    }
  })
  it('makes way where a value stands in place of a mapping', () => {
    const text = new TechniqueFile('names: Our kick\n').with([['names', 'main'], 'Our kick'])
    expect(new TechniqueFile(text).words(['names', 'main'])).toBe('Our kick')
  })
  it('adds an event before another one, with its second', () => {
    const text = new TechniqueFile(COMMENTED).withEvent('knee_up', { phase: 'start', mark: 'x' }, 0.4, 'reached')
    const file = new TechniqueFile(text)
    expect(file.keys(['events'])).toEqual(['begins', 'knee_up', 'reached'])
    expect(file.at(['moves_like', 'events', 'knee_up'])).toBe(0.4)
    const first = new TechniqueFile('id: a\n').withEvent('only', { phase: 'start' }, null, null)
    expect(new TechniqueFile(first).keys(['events'])).toEqual(['only'])
  })
  it('renames an event wherever it is read, and nothing else', () => {
    const file = new TechniqueFile(new TechniqueFile(COMMENTED).withEventCalled('reached', 'arrived'))
    expect(file.keys(['events'])).toEqual(['begins', 'arrived'])
    expect(file.words(['checkpoints', 0, 'measure', 'at'])).toBe('arrived')
    expect(file.at(['checkpoints', 1, 'measure', 'events'])).toEqual(['begins', { event: 'arrived', nth: 2 }])
    expect(file.at(['checkpoints', 1, 'branch', 'ducks'])).toEqual(['arrived'])
    expect(file.words(['checkpoints', 0, 'id'])).toBe('leg_long')
    expect(file.text).not.toContain('reached')
  })
  it('renames a phase wherever it is named', () => {
    const file = new TechniqueFile(new TechniqueFile(COMMENTED).withPhaseCalled('finish', 'end'))
    expect(file.list(['phases'])).toEqual(['start', 'end'])
    expect(file.words(['events', 'reached', 'phase'])).toBe('end')
    expect(file.words(['checkpoints', 1, 'phase'])).toBe('end')
  })
  it('says where a text cannot be read', () => {
    expect(new TechniqueFile('a: [1\nb: 2\n').broken?.line).toBeGreaterThan(0)
    expect(new TechniqueFile('just words').broken?.message).toBe('It holds no technique.')
    expect(new TechniqueFile('a: &x [1]\nb: *x\n').keys([])).toEqual([])
  })
})

it.each([
  ['The left knee!', '_', 'the_left_knee'],
  ['  Über 90 °', '-', 'uber-90'],
  ['90 grad', '-', 'grad'],
  ['…', '-', ''],
] as const)('names %j in the file', (words, by, name) => expect(named(words, by)).toBe(name))
