import { describe, expect, it } from 'vitest'
import { age, ageWords, keptHeight, keptWeight, shownHeight, shownWeight, words } from './units'

describe('heights and weights', () => {
  it.each([150, 162.5, 171, 198.3])('a height of %d cm comes back as it was, whatever it is shown in', (cm) => {
    expect(keptHeight(shownHeight(cm, 'metric'), 'metric')).toBe(cm)
    expect(Math.abs((keptHeight(shownHeight(cm, 'imperial'), 'imperial') ?? 0) - cm)).toBeLessThanOrEqual(0.2)
  })
  it('is shown in inches and pounds', () => {
    expect(shownHeight(177.8, 'imperial')).toBe(70)
    expect(shownWeight(68, 'imperial')).toBe(149.9)
    expect(keptWeight(150, 'imperial')).toBe(68)
  })
  it('keeps what is not known', () => {
    expect(shownHeight(null, 'metric')).toBeNull()
    expect(keptWeight(null, 'imperial')).toBeNull()
  })
})

describe('an age', () => {
  it('goes up on the birthday and not before', () => {
    expect(age('2014-05-04', new Date(2026, 4, 3))).toBe(11)
    expect(age('2014-05-04', new Date(2026, 4, 4))).toBe(12)
    expect(age('2014-12-31', new Date(2026, 0, 1))).toBe(11)
  })
  it('says who is a child', () => {
    expect(ageWords('2014-05-04', new Date(2026, 10, 1))).toBe('12, child')
    expect(ageWords('2008-11-01', new Date(2026, 10, 1))).toBe('18')
    expect(ageWords(null)).toBe('')
  })
})

it('words between commas are taken once each', () => {
  expect(words(' Tuesday, kids,,Tuesday ')).toEqual(['Tuesday', 'kids'])
  expect(words('')).toEqual([])
})
