import { describe, expect, it } from 'vitest'
import { bandPath, begunAt, linePath, placeIn, scaleOf, ticksOf } from './curve'

describe('lines', () => {
  it('begin anew after a gap', () => {
    expect(linePath([{ x: 0, y: 1 }, { x: 1, y: 2 }, null, { x: 3, y: 4 }, { x: 4, y: 4 }])).toBe(
      'M0.0 1.0L1.0 2.0M3.0 4.0L4.0 4.0',
    )
    expect(linePath([])).toBe('')
  })
  it('close each stretch of a band by itself, and leave out one that is a point', () => {
    const up = [{ x: 0, y: 0 }, { x: 1, y: 0 }, null, { x: 3, y: 0 }]
    const down = [
      { x: 0, y: 2 },
      { x: 1, y: 2 },
      { x: 2, y: 2 },
      { x: 3, y: 2 },
    ]
    expect(bandPath(up, down)).toBe('M0.0 0.0L1.0 0.0L1.0 2.0L0.0 2.0Z')
  })
})

describe('scales', () => {
  it('hold all that is known, with room', () => {
    expect(scaleOf([10, null, 20, undefined, NaN])).toEqual({ low: 9.2, high: 20.8 })
    expect(scaleOf([null])).toEqual({ low: 0, high: 1 })
    expect(scaleOf([5], 2)).toEqual({ low: 4, high: 6 })
  })
  it('are marked at round numbers within them', () => {
    expect(ticksOf({ low: 88, high: 183 }, 4)).toEqual([100, 150])
    expect(ticksOf({ low: -0.11, high: 0.12 }, 5)).toEqual([-0.1, -0.05, 0, 0.05, 0.1])
    for (const [low, high] of [
      [0, 1],
      [-3, 400],
      [0.001, 0.0023],
    ] as const) {
      const found = ticksOf({ low, high }, 5)
      expect(found.length).toBeGreaterThan(0)
      expect(found.length).toBeLessThanOrEqual(6)
      expect(found.every((one) => one >= low && one <= high)).toBe(true)
    }
  })
})

describe('times', () => {
  it('place a moment between two of them, and nowhere outside', () => {
    expect(placeIn([-1, 0, 2], 1)).toBe(1.5)
    expect(placeIn([-1, 0, 2], -1)).toBe(0)
    expect(placeIn([-1, 0, 2], 2.1)).toBeNull()
    expect(placeIn([], 0)).toBeNull()
  })
  it('tell the last that has begun', () => {
    expect(begunAt([-1, 0, 2], 1.99)).toBe(1)
    expect(begunAt([-1, 0, 2], -9)).toBe(0)
    expect(begunAt([-1, 0, 2], 9)).toBe(2)
  })
})
