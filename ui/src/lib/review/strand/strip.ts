import type { Film } from '../../api/client'

/** A picture of the filmstrip as CSS: which sheet, where on it, and how large the whole sheet is drawn (pixels). */
export interface Slot {
  x: number
  width: number
  frame: number
  level: number
  sheet: number
  left: number
  top: number
  sheetWidth: number
}

const ACROSS = 10
const A_SHEET = 100

/** The pictures that fill a strip `width` pixels wide and `height` high, showing the frames from `from` to `to`. */
export function filmSlots(film: Film, from: number, to: number, width: number, height: number): Slot[] {
  const wide = (film.width * height) / film.height
  const count = Math.max(1, Math.floor(width / wide))
  const frames = Math.max(to - from, 1)
  const level = levelFor(film, frames / count)
  const { step, pictures } = film.levels[level] ?? { step: 1, pictures: 0 }
  if (pictures === 0) return []
  // A picture fills its slot: it is drawn as wide as that, and what is then too high is cut off above and below.
  const each = width / count
  const high = (each * film.height) / film.width
  return Array.from({ length: count }, (_, k) => {
    const frame = from + ((k + 0.5) / count) * frames
    const picture = Math.max(0, Math.min(pictures - 1, Math.round(frame / step)))
    const sheet = Math.floor(picture / A_SHEET)
    const at = picture % A_SHEET
    const onSheet = Math.min(pictures - sheet * A_SHEET, A_SHEET)
    // A last sheet of a single row is only as wide as its pictures.
    const across = onSheet < ACROSS ? onSheet : ACROSS
    return {
      x: k * each,
      width: each,
      frame: Math.min(picture * step, to),
      level,
      sheet,
      left: (at % ACROSS) * each,
      top: Math.floor(at / ACROSS) * high + (high - height) / 2,
      sheetWidth: across * each,
    }
  })
}

/** The coarsest zoom whose pictures lie no wider apart than the slots do. */
export function levelFor(film: Film, framesASlot: number): number {
  let found = 0
  film.levels.forEach((level, number) => {
    if (level.step <= framesASlot) found = number
  })
  return found
}

/** A trace of 0–99 as the path of its upper edge, filled down to the base: at most one value a pixel, the largest. */
export function tracePath(
  values: readonly number[],
  at: (index: number) => number,
  from: number,
  to: number,
  base: number,
  height: number,
): string {
  let path = ''
  let pixel = Number.NEGATIVE_INFINITY
  let most = 0
  for (let k = Math.max(0, Math.floor(from)); k <= Math.min(values.length - 1, Math.ceil(to)); k++) {
    const x = Math.round(at(k))
    if (x === pixel) most = Math.max(most, values[k] ?? 0)
    else {
      if (path) path += `L${pixel} ${point(most, base, height)}`
      else path = `M${x} ${base}`
      pixel = x
      most = values[k] ?? 0
    }
  }
  return path ? `${path}L${pixel} ${point(most, base, height)}L${pixel} ${base}Z` : ''
}

function point(value: number, base: number, height: number): string {
  return (base - (value / 99) * height).toFixed(1)
}
