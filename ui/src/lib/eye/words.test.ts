import { describe, expect, it } from 'vitest'
import { biasWords, isBiased, offBy, rateWords, scatterWords } from './words'

const choice = { grade: 3 as const, frames: null, ms: null, degrees: null, after: null }
const spread = { n: 12, bias: -18.4, bias_within: [-30, -6], scatter: 22.2, scatter_within: [15, 40] }

describe('what came of an answer', () => {
  it.each([
    [{ ...choice, hit: true }, 'Right.'],
    [{ ...choice, hit: false }, 'Wrong.'],
    [{ ...choice, hit: true, frames: 0, ms: 0 }, 'On the frame.'],
    [{ ...choice, hit: true, frames: 1, ms: 16.7 }, '1 frame late (17 ms).'],
    [{ ...choice, hit: false, frames: -6, ms: -100 }, '6 frames early (100 ms).'],
    [{ ...choice, hit: false, degrees: -12.3 }, '12° too small.'],
    [{ ...choice, hit: false, degrees: 12, after: 0.2 }, '12° too large; with the wanted range shown, exactly right.'],
  ])('%o → %s', (scored, words) => expect(offBy(scored)).toBe(words))
})

describe('what the eye is like', () => {
  it('is said with its interval', () => {
    expect(biasWords(spread, 'ms')).toBe('−18 ms (−30 to −6)')
    expect(scatterWords(spread, 'ms')).toBe('22 ms (15 to 40)')
    expect(isBiased(spread)).toBe(true)
    expect(isBiased({ ...spread, bias_within: [-30, 6] })).toBe(false)
    expect(isBiased({ ...spread, bias_within: [-5, -0.3] })).toBe(false)
  })
  it('says so where there is too little', () => {
    const none = { n: 1, bias: null, bias_within: null, scatter: null, scatter_within: null }
    expect(biasWords(none, '°')).toBe('–')
    expect(scatterWords(none, '°')).toBe('–')
    expect(rateWords({ n: 0, of: 0, within: [0, 1] })).toBe('–')
    expect(rateWords({ n: 8, of: 10, within: [0.49, 0.943] })).toBe('80 % of 10 (49–94 %)')
  })
})
