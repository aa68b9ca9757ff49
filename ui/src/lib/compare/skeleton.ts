import type { Schemas } from '../api/client'

export interface Limb {
  key: string
  x1: number
  y1: number
  x2: number
  y2: number
}

/** The limbs of a body whose ends are known in a frame, pixels; and joints that no known limb ends at. */
export function limbsOf(
  skeleton: Schemas['SkeletonOut'],
  frame: number,
): { limbs: Limb[]; joints: [number, number][] } {
  const row = skeleton.frames[frame] ?? []
  const places = skeleton.landmarks.map((_, i): [number, number] | null => {
    const [x, y] = [row[2 * i], row[2 * i + 1]]
    return x != null && y != null ? [x, y] : null
  })
  const limbs = skeleton.limbs.flatMap(([a = -1, b = -1]) => {
    const [from, to] = [places[a], places[b]]
    return from && to ? [{ key: `${a} ${b}`, x1: from[0], y1: from[1], x2: to[0], y2: to[1] }] : []
  })
  return { limbs, joints: places.filter((place) => place !== null) }
}
