/** Time inside a frame: the middle between its own time and the next one's, so that a seek cannot land beside it. */
export function midTime(pts: readonly number[], frame: number): number {
  const start = pts[frame] ?? 0
  const next = pts[frame + 1]
  if (next !== undefined) return (start + next) / 2
  const before = pts[frame - 1]
  return start + (before === undefined ? 0.01 : (start - before) / 2)
}

/** The frame shown at a time: the last one that has begun. `slack` forgives the clock's rounding (seconds). */
export function frameAt(pts: readonly number[], time: number, slack = 0.0005): number {
  let low = 0
  let high = pts.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if ((pts[middle] ?? Infinity) <= time + slack) low = middle
    else high = middle - 1
  }
  return low
}
