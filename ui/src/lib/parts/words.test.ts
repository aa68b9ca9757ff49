import { describe, expect, it } from 'vitest'
import {
  bytes,
  captured,
  clock,
  moment,
  restsOn,
  seconds,
  sentence,
  shown,
  shownSpeed,
  shownWith,
  spoken,
  wanted,
} from './words'

describe('numbers carry their unit', () => {
  it.each([
    [138.4, 'deg', '138°'],
    [8.23, 'deg', '8.2°'],
    [-12, 'deg', '−12°'],
    [412.4, 'ms', '412 ms'],
    [3, 'frames', '3 frames'],
    [0.583, 'shank', '0.58 shank'],
    [0.5, null, '0.50'],
  ])('%s in %s reads %s', (value, unit, text) => {
    expect(shown(value, unit)).toBe(text)
  })
})

describe('a value with its uncertainty says its unit once', () => {
  it.each([
    [0.59, 0.02, 'shank', '0.59 ±0.02 shank'],
    [138.4, 3.2, 'deg', '138° ±3.2°'],
    [412.4, 14, 'ms', '412 ms ±14 ms'],
  ] as const)('%s with %s in %s', (value, u, unit, text) => {
    expect(shownWith(value, u, unit)).toBe(text)
  })
})

describe('a wanted range in words', () => {
  it.each([
    [[null, 85], 'deg', 'at most 85°'],
    [[155, null], 'deg', 'at least 155°'],
    [[60, 330], 'ms', '60 ms to 330 ms'],
    [[-60, 90], 'ms', '−60 ms to 90 ms'],
    [[null, null], 'ms', ''],
    [null, 'ms', ''],
  ] as const)('%j in %s', (within, unit, text) => {
    expect(wanted(within as [number | null, number | null] | null, unit)).toBe(text)
  })
})

describe('other words', () => {
  it('keys are spoken without their joints', () => {
    expect(spoken('left_knee')).toBe('left knee')
    expect(spoken('low-chamber')).toBe('low chamber')
  })
  it.each([
    [0, '00:00.000'],
    [7.4021, '00:07.402'],
    [83.5, '01:23.500'],
  ])('%s seconds read %s', (seconds, text) => {
    expect(clock(seconds)).toBe(text)
  })
  it.each([
    [10, '0.1 kB'],
    [20_500, '20.5 kB'],
    [3_200_000, '3.2 MB'],
  ])('%s bytes read %s', (count, text) => {
    expect(bytes(count)).toBe(text)
  })
  it('a reason becomes a sentence', () => {
    expect(sentence('right knee has no point')).toBe('Right knee has no point.')
    expect(sentence('14° over 100°')).toBe('14° over 100°.')
  })
})

describe('speeds, spans and capture rates', () => {
  it.each([
    [1, '1×'],
    [0.5, '½×'],
    [0.125, '⅛×'],
    ['real', 'real time'],
  ] as const)('%s reads %s', (speed, words) => expect(shownSpeed(speed)).toBe(words))
  it.each([
    [0, '0 s'],
    [59.4, '59 s'],
    [60, '1 min 00 s'],
    [125, '2 min 05 s'],
    [-3, '0 s'],
  ])('%s seconds read %s', (count, words) => expect(seconds(count)).toBe(words))
  it('says a ramp from its frames', () => {
    expect(captured([])).toBe('as filmed')
    expect(
      captured([
        { frame: 0, rate: 1 },
        { frame: 120, rate: 8 },
        { frame: 480, rate: 1 },
      ]),
    ).toBe('as filmed, 8× slowed from frame 120, as filmed from frame 480')
    expect(captured([{ frame: 0, rate: 0.5 }])).toBe('2× quickened')
  })
})

describe('what a value rests on', () => {
  it('the surest thing is named', () => {
    expect(restsOn(['picture'])).toBe('the picture')
    expect(restsOn(['picture', 'lengths'])).toBe('the lengths of the limbs')
    expect(restsOn(['picture', 'lengths', 'views'])).toBe('two views')
    expect(restsOn(['picture', 'lengths', 'eye'])).toBe('a look at the depth')
  })
})

describe('a moment', () => {
  const now = new Date(2026, 10, 29)
  it('is told in the reader’s own time, without the year where it is this one', () => {
    const at = new Date(2026, 4, 4, 9, 5)
    expect(moment(at.toISOString(), now, 'en-GB')).toBe('4 May, 09:05')
  })
  it('names another year', () => {
    expect(moment(new Date(2025, 11, 31, 23, 59).toISOString(), now, 'en-GB')).toBe('31 Dec 2025, 23:59')
  })
})
