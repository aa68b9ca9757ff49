import type { Schemas } from '../api/client'

export type Figure = Schemas['FigureOut']
export type Vector = readonly [number, number, number]

/** Where a body's joints are, and which way its axes point, at one time: metres, X to the target, Y to its left, Z up. */
export interface Pose {
  at: (name: string) => Vector
}

/** The time of the last frame, seconds. */
export function lengthOf(figure: Figure): number {
  return figure.times_s.at(-1) ?? 0
}

/** The frame that is shown at a time: the last one at or before it. */
export function frameAt(figure: Figure, seconds: number): number {
  const begun = figure.times_s.findLastIndex((time) => time <= seconds + 1e-6)
  return Math.max(begun, 0)
}

/** The time one frame later or earlier. */
export function stepped(figure: Figure, seconds: number, by: 1 | -1): number {
  const times = figure.times_s
  const next = by === 1 ? times.find((time) => time > seconds + 1e-6) : times.findLast((time) => time < seconds - 1e-6)
  return next ?? (by === 1 ? lengthOf(figure) : (times[0] ?? 0))
}

/** A body at a time, between its frames drawn in a straight line. Joints are in metres, axes have no unit. */
export function poseAt(figure: Figure, body: number, seconds: number): Pose {
  const { times_s: times, joints, axes } = figure
  const frames = figure.bodies[body]?.frames ?? []
  const here = frameAt(figure, seconds)
  const [before, after] = [frames[here] ?? [], frames[here + 1] ?? frames[here] ?? []]
  const [begun, ended] = [times[here] ?? 0, times[here + 1] ?? 0]
  const share = ended > begun ? Math.max(0, Math.min((seconds - begun) / (ended - begun), 1)) : 0
  const places = new Map([...joints, ...axes].map((name, i) => [name, i * 3]))
  const number = (i: number) => ((before[i] ?? 0) * (1 - share) + (after[i] ?? 0) * share) / 1000
  return {
    at: (name) => {
      const i = places.get(name)
      if (i === undefined) throw new Error(`a figure has no ${name}`)
      return [number(i), number(i + 1), number(i + 2)]
    },
  }
}

/** The box around all joints of some figures over all frames, metres: lowest and highest corner. */
export function boxOf(figures: readonly Figure[]): [Vector, Vector] {
  const [x, y, z] = [spanOf(figures, 0), spanOf(figures, 1), spanOf(figures, 2)]
  return [
    [x.low, y.low, Math.min(z.low, 0)],
    [x.high, y.high, z.high],
  ]
}

function spanOf(figures: readonly Figure[], axis: 0 | 1 | 2): { low: number; high: number } {
  let [low, high] = [Infinity, -Infinity]
  for (const { bodies, joints } of figures)
    for (const number of bodies.flatMap((body) =>
      body.frames.flatMap((frame) => frame.slice(0, joints.length * 3).filter((_, i) => i % 3 === axis)),
    )) {
      low = Math.min(low, number / 1000)
      high = Math.max(high, number / 1000)
    }
  return { low, high }
}

/** Kinds of which the points that are read are joined by a line. */
const JOINED = ['angle', 'line', 'inclination', 'gap', 'relation', 'change', 'peak', 'path', 'speed']

/** Whether the points that a checkpoint reads say more when a line joins them. */
export function joins(kind: string, points: number): boolean {
  return points <= 4 && JOINED.includes(kind)
}

/** What a checkpoint comes to on a figure, in words; empty where nothing is measured. */
export function readOn(figure: Figure, checkpoint: string): string {
  return figure.checkpoints.find((one) => one.id === checkpoint)?.value ?? ''
}
