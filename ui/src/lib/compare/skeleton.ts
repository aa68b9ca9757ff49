import type { Schemas } from '../api/client'

const LIMBS: readonly (readonly [string, string])[] = [
  ...['left', 'right'].flatMap((side) =>
    (
      [
        ['shoulder', 'elbow'],
        ['elbow', 'wrist'],
        ['hip', 'knee'],
        ['knee', 'ankle'],
        ['ankle', 'heel'],
        ['heel', 'toe'],
        ['shoulder', 'hip'],
      ] as const
    ).map(([a, b]) => [`${side}_${a}`, `${side}_${b}`] as const),
  ),
  ['left_shoulder', 'right_shoulder'],
  ['left_hip', 'right_hip'],
  ['neck', 'head_top'],
]

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
  const place = new Map<string, [number, number]>()
  skeleton.landmarks.forEach((name, i) => {
    const [x, y] = [row[2 * i], row[2 * i + 1]]
    if (x != null && y != null) place.set(name, [x, y])
  })
  const limbs = LIMBS.flatMap(([a, b]) => {
    const [from, to] = [place.get(a), place.get(b)]
    return from && to ? [{ key: `${a} ${b}`, x1: from[0], y1: from[1], x2: to[0], y2: to[1] }] : []
  })
  return { limbs, joints: [...place.values()] }
}
