import { expect, test } from 'vitest'
import { layPegs, type Peg } from './pegs'

const peg = (at: number, number = 1, name = 'knee top chamber', frame = at): Peg => ({
  key: name,
  name,
  number,
  frame,
  at,
})

/** The stretch of the row that a laid label covers, as generously as the browser draws it. */
function stretch(one: ReturnType<typeof layPegs>[number]): [number, number] {
  const wide = 16 + (one.label === 'full' ? one.name.length * 6.6 : 0)
  return one.left ? [one.at - wide, one.at] : [one.at, one.at + wide]
}

test('two events on one spot stand in two rows, and a third gives way to its number or to nothing', () => {
  const laid = layPegs([peg(100, 1), peg(104, 2), peg(108, 3)], -1, 800, 2)
  expect(laid.map((one) => [one.row, one.label])).toEqual([
    [0, 'full'],
    [1, 'full'],
    [1, 'none'],
  ])
  const spread = layPegs([peg(100, 1), peg(104, 2), peg(80, 3)], -1, 800, 2)
  expect(spread.map((one) => one.label)).toEqual(['full', 'full', 'none'])
})

test('the event on the screen keeps its name', () => {
  const laid = layPegs([peg(100, 1), peg(104, 2), peg(108, 3)], 108, 800, 2)
  expect(laid.find((one) => one.number === 3)?.label).toBe('full')
})

test('at the right edge a label stands to the left of its mark', () => {
  expect(layPegs([peg(780)], -1, 800, 2)[0]?.left).toBe(true)
})

test('no label covers another, wherever the events lie', () => {
  let seed = 7
  const chance = () => (seed = (seed * 16807) % 2147483647) / 2147483647
  let checked = 0
  for (let round = 0; round < 300; round++) {
    const pegs = Array.from({ length: 1 + Math.floor(chance() * 12) }, (_, i) =>
      peg(8 + chance() * 784, i + 1, 'x'.repeat(4 + Math.floor(chance() * 20)), i),
    )
    const laid = layPegs(pegs, Math.floor(chance() * 12), 800, 2)
    expect(laid).toHaveLength(pegs.length)
    for (const one of laid)
      for (const other of laid)
        if (one !== other && one.row === other.row && one.label !== 'none' && other.label !== 'none') {
          const [a, b] = [stretch(one), stretch(other)]
          expect(a[1] <= b[0] || b[1] <= a[0]).toBe(true)
          checked++
        }
  }
  expect(checked).toBeGreaterThan(1000)
})
