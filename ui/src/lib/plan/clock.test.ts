import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { aheadBy, placeAt, roundAt, type Told } from './clock'

const LENGTHS = [60, 30, 90]
const told = (more: Partial<Told> = {}): Told => ({
  unit: 0,
  left_s: 60,
  all_left_s: 180,
  running: true,
  over: false,
  now: 1_000_000,
  ...more,
})

describe('the clock of a class', () => {
  beforeEach(() => vi.useFakeTimers({ now: 1_000_007_000 }))
  afterEach(() => vi.useRealTimers())

  it('shows the right unit after the device slept, whatever its own clock says', () => {
    const one = told()
    const ahead = aheadBy(one)
    expect(ahead).toBe(7)
    expect(placeAt(one, LENGTHS, ahead)).toEqual({ unit: 0, left: 60, all: 180, over: false })
    vi.advanceTimersByTime(59_000)
    expect(placeAt(one, LENGTHS, ahead).left).toBe(1)
    // No tick came for a minute and a half.
    vi.setSystemTime(1_000_007_000 + 100_000)
    expect(placeAt(one, LENGTHS, ahead)).toEqual({ unit: 2, left: 80, all: 80, over: false })
    vi.setSystemTime(1_000_007_000 + 10_000_000)
    expect(placeAt(one, LENGTHS, ahead).over).toBe(true)
  })

  it('is the same for a page that is loaded later', () => {
    const first = told()
    vi.setSystemTime(1_000_007_000 + 70_000)
    const later = told({ unit: 1, left_s: 20, now: 1_000_070 })
    expect(placeAt(later, LENGTHS, aheadBy(later))).toEqual(placeAt(first, LENGTHS, 7))
  })

  it('stands still while it is paused', () => {
    const one = told({ running: false, left_s: 12 })
    vi.advanceTimersByTime(500_000)
    expect(placeAt(one, LENGTHS, aheadBy(one, 1_000_007))).toMatchObject({ unit: 0, left: 12 })
  })

  it('does not run backwards on a device that is behind', () => {
    expect(placeAt(told(), LENGTHS, 0, 999_990).left).toBe(60)
  })
})

describe('rounds', () => {
  it('follow each other with rests between them and none after the last', () => {
    const at = (elapsed: number) => roundAt(elapsed, 3, 20, 10)
    expect(at(0)).toEqual({ round: 1, of: 3, rest: false, left: 20 })
    expect(at(29)).toEqual({ round: 1, of: 3, rest: true, left: 1 })
    expect(at(79)).toEqual({ round: 3, of: 3, rest: false, left: 1 })
    expect([at(80), at(-1)]).toEqual([null, null])
  })
})
