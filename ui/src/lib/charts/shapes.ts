/** One colour, dash and shape a line, so that lines are told apart without colours. */
export const LINES = [
  { colour: 'var(--performer)', dash: null },
  { colour: 'var(--alarm)', dash: '7 4' },
  { colour: 'var(--met)', dash: '2 3' },
  { colour: 'var(--partner)', dash: '9 3 2 3' },
] as const
export type Line = (typeof LINES)[number]

/** The shape of the points of a line: circle, square, triangle, diamond. */
export function shapeAt(index: number, x: number, y: number, size = 4.5): string {
  const s = size
  switch (index % LINES.length) {
    case 1:
      return `M${x - s} ${y - s}h${2 * s}v${2 * s}h${-2 * s}z`
    case 2:
      return `M${x} ${y - 1.2 * s}l${1.2 * s} ${2.1 * s}h${-2.4 * s}z`
    case 3:
      return `M${x} ${y - 1.35 * s}l${1.35 * s} ${1.35 * s}l${-1.35 * s} ${1.35 * s}l${-1.35 * s} ${-1.35 * s}z`
    default:
      return `M${x - s} ${y}a${s} ${s} 0 1 0 ${2 * s} 0a${s} ${s} 0 1 0 ${-2 * s} 0z`
  }
}

export interface Point {
  on: Date
  value: number
  low: number
  high: number
  words: string
}
export interface Series {
  name: string
  points: readonly Point[]
}

/** A day as it is told by the server, at noon, so that no time zone moves it to another day. */
export function noon(iso: string): Date {
  return new Date(`${iso}T12:00:00`)
}

/** From the first to the last day of some lines, with a little room before and after; a single day gets a fortnight. */
export function spanOf(series: readonly Series[]): [Date, Date] | null {
  const days = series.flatMap((one) => one.points.map((point) => point.on.getTime()))
  if (!days.length) return null
  const [first, last] = [Math.min(...days), Math.max(...days)]
  const room = first === last ? 14 * 86_400_000 : 0.03 * (last - first)
  return [new Date(first - room), new Date(last + room)]
}

/** Round numbers from 0 up to at least a value: at most five of them. */
export function ticksTo(value: number): number[] {
  const rough = Math.max(value, 1e-6) / 4
  const unit = 10 ** Math.floor(Math.log10(rough))
  const step = ([1, 2, 2.5, 5, 10].find((one) => one * unit >= rough) ?? 10) * unit
  return Array.from({ length: Math.ceil(value / step - 1e-9) + 1 }, (_, i) => i * step)
}
