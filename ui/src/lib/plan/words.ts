import type { Schemas } from '../api/client'

export const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const

/** A minute of the day as a time: `18:05`. */
export function timeOf(minute: number): string {
  return `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
}

/** A time as a minute of the day; null where it is none. */
export function minuteOf(time: string): number | null {
  const found = /^(\d{1,2}):(\d{2})$/.exec(time.trim())
  if (!found) return null
  const [hours, minutes] = [Number(found[1]), Number(found[2])]
  return hours < 24 && minutes < 60 ? 60 * hours + minutes : null
}

/** Seconds of a countdown: `4:05`, `0:09`. */
export function countdown(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds - 1e-6))
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}

/** A share with its interval: `6 of 10 (31–83 %)`. */
export function shareWords(share: { count: number; of: number; interval: readonly number[] }): string {
  const [low, high] = share.interval.map((one) => Math.round(100 * one))
  return `${share.count} of ${share.of} (${low}–${high} %)`
}

type Helped = Schemas['HelpedOut']

/** Whether a fault went away meanwhile, in words. */
export function helpedWords(one: Pick<Helped, 'verdict' | 'before' | 'after'>): string {
  const rate = (part: Helped['before']) => `${part.misses} of ${part.exposures}`
  const told = `missed in ${rate(one.before)} reps before, ${rate(one.after)} since`
  if (one.verdict === 'helped') return `Helped: ${told}`
  if (one.verdict === 'worse') return `Worse: ${told}`
  if (one.verdict === 'not_yet') return `Not yet: ${told}`
  return `Too little to tell: ${told}; two sessions on either side are needed`
}

/** Where an item of the queue leads, in a word. */
export function actOf(path: string): string {
  if (path.startsWith('/bench')) return 'Review'
  if (path.startsWith('/inbox')) return 'Answer'
  if (path.startsWith('/clips')) return 'Name it'
  if (path.startsWith('/second')) return 'Go on'
  return 'Open'
}

/** A unit moved from one place to another; what is locked keeps its minute, so that it is not moved past. */
export function moved<T extends { locked: boolean }>(units: readonly T[], from: number, to: number): T[] {
  const unit = units[from]
  if (!unit || unit.locked || from === to || to < 0 || to >= units.length) return [...units]
  const [low, high] = from < to ? [from + 1, to] : [to, from - 1]
  if (units.slice(low, high + 1).some((one) => one.locked)) return [...units]
  const rest = units.filter((_, place) => place !== from)
  return [...rest.slice(0, to), unit, ...rest.slice(to)]
}
