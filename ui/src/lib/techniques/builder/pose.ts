import type { Pose } from '../../figure/motion'

/** A place of the flat picture, metres: x to the right, y down. */
export interface Spot {
  x: number
  y: number
}
export type From = 'side' | 'front' | 'above'

const SIDED = ['shoulder', 'elbow', 'wrist', 'hand', 'hip', 'knee', 'ankle', 'heel', 'toe']
/** The landmarks that are clicked: no more of the head than can be told apart. */
export const POINTS: readonly string[] = [
  'head_top',
  'chin',
  'neck',
  'mid_shoulder',
  'mid_hip',
  'mid_foot',
  ...SIDED.flatMap((joint) => [`left_${joint}`, `right_${joint}`]),
]
export const LIMBS: readonly (readonly [string, string])[] = [
  ['head_top', 'neck'],
  ['neck', 'mid_shoulder'],
  ['mid_shoulder', 'mid_hip'],
  ['left_shoulder', 'right_shoulder'],
  ['left_hip', 'right_hip'],
  ...['left', 'right'].flatMap((side) =>
    [
      ['shoulder', 'elbow'],
      ['elbow', 'wrist'],
      ['wrist', 'hand'],
      ['hip', 'knee'],
      ['knee', 'ankle'],
      ['ankle', 'heel'],
      ['heel', 'toe'],
    ].map(([a, b]) => [`${side}_${a}`, `${side}_${b}`] as const),
  ),
]
const MADE_OF: Record<string, readonly string[]> = {
  mid_shoulder: ['left_shoulder', 'right_shoulder'],
  mid_hip: ['left_hip', 'right_hip'],
  mid_foot: ['left_heel', 'left_toe', 'right_heel', 'right_toe'],
}

/** Where a joint lies in the flat picture. */
export function jointPlace(pose: Pose, joint: string, from: From): Spot {
  const parts = (MADE_OF[joint] ?? [joint]).map((part) => pose.at(part))
  const [x, y, z] = ([0, 1, 2] as const).map((axis) => parts.reduce((sum, at) => sum + at[axis], 0) / parts.length) as [
    number,
    number,
    number,
  ]
  if (from === 'side') return { x, y: -z }
  // From the front the target is where one stands: its left hand side lies to the right of the picture.
  if (from === 'front') return { x: y, y: -z }
  return { x, y: -y }
}

/** A range of an angle as a sector of the picture. */
export interface Fan {
  path: string
  at: Spot
  /** The direction from which degrees are counted, and which way: radians of the picture, 1 or −1. */
  zero: number
  turn: 1 | -1
  ends: { which: 0 | 1; degrees: number; x: number; y: number }[]
}

/** The sector of a wanted range: at the middle of three points from the first one's direction, or at the first of two from
 * upright, on the side where the last point lies. */
export function sector(
  kind: 'joint' | 'lean',
  read: readonly Spot[],
  [lo, hi]: readonly [number | null, number | null],
): Fan | null {
  const [at, start, end] = kind === 'joint' ? [read[1], read[0], read[2]] : [read[0], read[0] && up(read[0]), read[1]]
  if (!at || !start || !end) return null
  const zero = Math.atan2(start.y - at.y, start.x - at.x)
  const reach = Math.hypot(end.x - at.x, end.y - at.y)
  const cross = (start.x - at.x) * (end.y - at.y) - (start.y - at.y) * (end.x - at.x)
  const turn = cross >= 0 ? 1 : -1
  const radius = Math.max(0.18, reach * 0.8)
  const spot = (degrees: number): Spot => {
    const angle = zero + (turn * degrees * Math.PI) / 180
    return { x: at.x + radius * Math.cos(angle), y: at.y + radius * Math.sin(angle) }
  }
  const [from, to] = [lo ?? 0, hi ?? 180]
  const [a, b] = [spot(from), spot(to)]
  const large = to - from > 180 ? 1 : 0
  return {
    path: `M${at.x},${at.y}L${a.x},${a.y}A${radius},${radius} 0 ${large} ${turn === 1 ? 1 : 0} ${b.x},${b.y}Z`,
    at,
    zero,
    turn,
    ends: [
      { which: 0, degrees: from, ...a },
      { which: 1, degrees: to, ...b },
    ],
  }
}

const up = (at: Spot): Spot => ({ x: at.x, y: at.y - 1 })

/** The degrees of a place of the picture as a sector counts them, 0 to 180. */
export function angleOf({ at, zero, turn }: Fan, place: Spot): number {
  const turned = turn * (Math.atan2(place.y - at.y, place.x - at.x) - zero)
  const degrees = ((((turned * 180) / Math.PI) % 360) + 360) % 360
  // Beyond the half turn the nearer end counts.
  return degrees <= 180 ? degrees : degrees > 270 ? 0 : 180
}
