import { expect, test } from 'vitest'
import { LINES, noon, shapeAt, spanOf, ticksTo } from './shapes'

test('every line has a dash and a shape of its own', () => {
  expect(new Set(LINES.map((one) => one.dash)).size).toBe(LINES.length)
  expect(new Set(LINES.map((_, i) => shapeAt(i, 10, 10))).size).toBe(LINES.length)
})

test('a day stays the day that it is', () => {
  expect(noon('2026-03-01').getDate()).toBe(1)
})

test('the span goes over all lines, and a single day has room around it', () => {
  const point = (iso: string) => ({ on: noon(iso), value: 1, low: 0, high: 1, words: '' })
  const two = spanOf([
    { name: 'a', points: [point('2026-03-01')] },
    { name: 'b', points: [point('2026-01-01'), point('2026-02-01')] },
  ])
  const wide = noon('2026-03-01').getTime() - noon('2026-01-01').getTime()
  expect(two?.map((day) => day.getTime())).toEqual([
    noon('2026-01-01').getTime() - 0.03 * wide,
    noon('2026-03-01').getTime() + 0.03 * wide,
  ])
  const one = spanOf([{ name: 'a', points: [point('2026-03-15')] }])
  expect(one?.map((day) => day.getTime() - noon('2026-03-15').getTime())).toEqual([-14 * 86_400_000, 14 * 86_400_000])
  expect(spanOf([])).toBeNull()
})

test('ticks are round, begin at nothing, reach the value, and are few', () => {
  for (const value of [0.03, 0.9, 1, 1.7, 3, 4.2, 9, 26, 140, 999]) {
    const ticks = ticksTo(value)
    expect(ticks[0]).toBe(0)
    expect(ticks.at(-1)).toBeGreaterThanOrEqual(value - 1e-9)
    expect(ticks.length).toBeLessThanOrEqual(6)
    expect(ticks.length).toBeGreaterThanOrEqual(2)
  }
})
