/** An event's mark under the strand: where it stands, its number and name. */
export interface Peg {
  key: string
  name: string
  number: number
  frame: number
  /** Pixels from the left. */
  at: number
}
/** How its label is written: in which row, to the left of its mark where there is no room to the right, or as a number alone. */
export interface LaidPeg extends Peg {
  row: number
  left: boolean
  label: 'full' | 'number' | 'none'
}

const LETTER_PX = 6.6
const NUMBER_PX = 12
const GAP_PX = 4

/** Lay labels out in rows so that none covers another. Where there is no room a label gives way to its number, and then to
 * nothing: the event on the screen is laid first, then the others from left to right. */
export function layPegs(pegs: readonly Peg[], shown: number, width: number, rows: number): LaidPeg[] {
  const taken: [number, number][][] = Array.from({ length: rows }, () => [])
  const free = (row: number, from: number, to: number) =>
    (taken[row] ?? []).every(([a, b]) => to + GAP_PX <= a || b + GAP_PX <= from)
  function lay(peg: Peg): LaidPeg {
    for (const label of ['full', 'number'] as const) {
      const wide = GAP_PX + NUMBER_PX + (label === 'full' ? peg.name.length * LETTER_PX : 0)
      const left = peg.at + wide > width
      const [from, to] = left ? [peg.at - wide, peg.at] : [peg.at, peg.at + wide]
      for (let row = 0; row < rows; row++)
        if (free(row, from, to)) {
          taken[row]?.push([from, to])
          return { ...peg, row, left, label }
        }
    }
    return { ...peg, row: rows - 1, left: false, label: 'none' }
  }
  const order = [...pegs].sort((a, b) => Number(b.frame === shown) - Number(a.frame === shown) || a.at - b.at)
  return order.map(lay).sort((a, b) => a.at - b.at)
}
