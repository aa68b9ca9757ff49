import { describe, expect, it } from 'vitest'
import { cellWords, share, trendOf } from './ledger'

describe('the ledger in words', () => {
  it.each([
    [{ misses: 2, exposures: 5, borderline: 1, not_seen: 0, changed: false, state: 'recurring' }, 'missed in 2 of 5 reps, 1 borderline, recurring'],
    [{ misses: 0, exposures: 0, borderline: 0, not_seen: 3, changed: false, state: 'clean' }, '3 not seen, clean'],
    [{ misses: 1, exposures: 3, borderline: 0, not_seen: 0, changed: true, state: 'relapsed' }, 'missed in 1 of 3 reps, from then on relapsed'],
  ] as const)('a cell says what was counted and how it stands', (cell, words) => {
    expect(cellWords({ on: '2026-05-04', ...cell })).toBe(words)
  })
  it('a trend is the later half against the earlier one', () => {
    expect(trendOf(null)).toBe('')
    expect(trendOf([0.1, 0.6])).toBe('↓ less: 60 % then, 10 % now')
    expect(trendOf([0.7, 0.2])).toBe('↑ more: 20 % then, 70 % now')
    expect(trendOf([0.25, 0.2])).toBe('→ the same: 20 % then, 25 % now')
  })
  it('a share is told in whole per cent', () => expect(share(0.666)).toBe('67 %'))
})
