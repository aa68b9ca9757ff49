import { describe, expect, it } from 'vitest'
import { between, cellWords, share, stateOf, timeline, trendOf } from './ledger'

describe('the ledger in words', () => {
  it.each([
    [
      { misses: 2, exposures: 5, borderline: 1, not_seen: 0, changed: false, state: 'recurring' },
      'missed in 2 of 5 reps, 1 borderline, recurring',
    ],
    [{ misses: 0, exposures: 0, borderline: 0, not_seen: 3, changed: false, state: 'clean' }, '3 not seen, clean'],
    [
      { misses: 1, exposures: 3, borderline: 0, not_seen: 0, changed: true, state: 'relapsed' },
      'missed in 1 of 3 reps, from then on relapsed',
    ],
    [
      { misses: 2, exposures: 2, borderline: 0, not_seen: 0, changed: false, state: 'clean' },
      'missed in 2 of 2 reps, first seen',
    ],
  ] as const)('a cell says what was counted and how it stands', (cell, words) => {
    expect(cellWords({ on: '2026-05-04', ...cell })).toBe(words)
  })
  it('a miss that has no state yet is not called clean', () => {
    expect(stateOf({ state: 'clean', first_seen: true, missed_again: false })).toMatchObject({
      word: 'first seen',
      kind: 'first-seen',
    })
    expect(stateOf({ state: 'clean', first_seen: false, missed_again: false })).toMatchObject({
      word: 'clean',
      says: undefined,
    })
    expect(stateOf({ state: 'cleared', first_seen: false, missed_again: true })).toMatchObject({
      word: 'missed again',
      kind: 'first-seen',
      beside: 'too few reps to call it relapsed',
    })
    const cleared = { state: 'cleared', first_seen: false, missed_again: false } as const
    expect(stateOf({ ...cleared, days: [{ misses: 1 }, { misses: 0 }] }).beside).toBe('')
    expect(stateOf({ ...cleared, days: [{ misses: 0 }, { misses: 1 }] })).toMatchObject({
      word: 'cleared',
      beside: 'one miss does not undo it',
    })
  })
  it('a trend is the later half against the earlier one', () => {
    expect(trendOf(null)).toBe('')
    const half = (rate: number) => ({ rate, interval: [rate - 0.1, rate + 0.1] })
    expect(trendOf([half(0.1), half(0.6)])).toBe('↓ less: 60\u00a0% then, 10\u00a0% now (0\u2060–\u206020\u00a0%)')
    expect(trendOf([half(0.7), half(0.2)])).toBe('↑ more: 20\u00a0% then, 70\u00a0% now (60\u2060–\u206080\u00a0%)')
    expect(trendOf([half(0.25), half(0.2)])).toBe(
      '→ the same: 20\u00a0% then, 25\u00a0% now (15\u2060–\u206035\u00a0%)',
    )
  })
  it('a share is told in whole per cent, and its interval by one sign', () => {
    expect(share(0.666)).toBe('67\u00a0%')
    expect(between([0.021, 0.5])).toBe('2\u2060–\u206050\u00a0%')
  })
})

describe('rungs over time', () => {
  const ladder = ['solo', 'static_partner', 'moving']
  const decided = (
    decided_on: string,
    from_rung: string,
    to_rung: string,
    decision: 'advance' | 'hold' | 'step_back',
  ) => ({ decided_on, from_rung, to_rung, decision, advice: 'hold' as const, because: '', why: '' })
  it('steps where it was decided and shows what was filmed in between', () => {
    // Decisions come the newest first.
    const drawn = timeline({
      ladder,
      sessions: [
        { on: '2026-01-01', rung: 'solo', reps: 3 },
        { on: '2026-01-11', rung: 'static_partner', reps: 5 },
      ],
      decisions: [
        decided('2026-01-21', 'static_partner', 'solo', 'step_back'),
        decided('2026-01-06', 'solo', 'static_partner', 'advance'),
      ],
    })
    expect(drawn?.sessions.map(({ at, rung }) => [at, rung])).toEqual([
      [0, 0],
      [0.5, 1],
    ])
    expect(drawn?.decisions.map(({ at, rung, glyph }) => [at, rung, glyph])).toEqual([
      [0.25, 1, '↑'],
      [1, 0, '↓'],
    ])
    expect(drawn?.steps.map(({ at, rung }) => [at, rung])).toEqual([
      [0, 0],
      [0.25, 0],
      [0.25, 1],
      [1, 1],
      [1, 1],
      [1, 0],
      [1, 0],
    ])
  })
  it('is nothing without two days, and leaves out rungs that are not on the ladder', () => {
    expect(timeline({ ladder, sessions: [], decisions: [] })).toBeNull()
    expect(
      timeline({
        ladder,
        sessions: [
          { on: '2026-01-01', rung: 'solo', reps: 3 },
          { on: '2026-01-05', rung: null, reps: 3 },
        ],
        decisions: [],
      }),
    ).toBeNull()
  })
})
