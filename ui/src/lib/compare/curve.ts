/** Drawing a quantity over time: paths that break where nothing is known, and a scale for what is shown. */

export type Value = number | null | undefined
export interface Place {
  x: number
  y: number
}

/** A line through places, begun anew after each gap. */
export function linePath(places: readonly (Place | null)[]): string {
  let drawn = ''
  let down = false
  for (const place of places) {
    if (place) drawn += `${down ? 'L' : 'M'}${place.x.toFixed(1)} ${place.y.toFixed(1)}`
    down = place !== null
  }
  return drawn
}

/** The area between two lines of the same length; each stretch without a gap is closed by itself. */
export function bandPath(upper: readonly (Place | null)[], lower: readonly (Place | null)[]): string {
  const stretches: [Place, Place][][] = [[]]
  upper.forEach((place, i) => {
    const below = lower[i]
    if (place && below) stretches.at(-1)?.push([place, below])
    else if (stretches.at(-1)?.length) stretches.push([])
  })
  return stretches
    .filter((stretch) => stretch.length > 1)
    .map((stretch) => `${linePath([...stretch.map(([a]) => a), ...stretch.map(([, b]) => b).reverse()])}Z`)
    .join('')
}

export interface Scale {
  low: number
  high: number
}

/** A scale that holds all values with some room, and at least `least` of the unit. */
export function scaleOf(values: Iterable<Value>, least = 1e-6): Scale {
  let [low, high] = [Infinity, -Infinity]
  for (const value of values) {
    if (value == null || !Number.isFinite(value)) continue
    low = Math.min(low, value)
    high = Math.max(high, value)
  }
  if (low > high) return { low: 0, high: 1 }
  const room = Math.max((high - low) * 0.08, least / 2)
  return { low: low - room, high: high + room }
}

/** Marks of an axis: at most `most` round numbers within a scale. */
export function ticksOf({ low, high }: Scale, most: number): number[] {
  const rough = (high - low) / Math.max(most, 1)
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((one) => one * power).find((one) => one >= rough) ?? 10 * power
  const first = Math.ceil(low / step) * step
  return Array.from({ length: Math.max(0, Math.floor((high - first) / step + 1e-9) + 1) }, (_, i) => {
    const mark = first + i * step
    return Math.abs(mark) < step / 1e6 ? 0 : Number(mark.toPrecision(12))
  })
}

/** Where a time lies among rising times: a place between two of them, null outside of them. */
export function placeIn(times: readonly number[], time: number): number | null {
  const last = times.length - 1
  if (last < 0 || time < (times[0] ?? 0) || time > (times[last] ?? 0)) return null
  let [low, high] = [0, last]
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if ((times[middle] ?? 0) <= time) low = middle
    else high = middle
  }
  const [a, b] = [times[low] ?? 0, times[high] ?? 0]
  return b > a ? low + (time - a) / (b - a) : low
}

/** The last of rising times that has begun at a moment; the first where none has. */
export function begunAt(times: readonly number[], now: number, slack = 1e-6): number {
  let [low, high] = [0, times.length - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if ((times[middle] ?? Infinity) <= now + slack) low = middle
    else high = middle - 1
  }
  return Math.max(low, 0)
}
