/** `left_knee` → “left knee”. */
export function spoken(key: string): string {
  return key.replace(/[_-]/g, ' ')
}

/** A number as people read it, with its unit: `138°`, `412 ms`, `0.58 shank`. */
export function shown(value: number, unit: string | null): string {
  if (value < 0) return `−${shown(-value, unit)}`
  if (unit === 'deg') return `${value.toFixed(Math.abs(value) < 10 ? 1 : 0)}°`
  if (unit === 'ms' || unit === 'frames') return `${value.toFixed(0)} ${unit}`
  return unit ? `${value.toFixed(2)} ${unit}` : value.toFixed(2)
}

/** A value with its uncertainty, the unit said once where it is a word: “0.59 ±0.02 shank”. */
export function shownWith(value: number, u: number, unit: string | null): string {
  const short = unit === 'deg' || unit === 'ms' || unit === 'frames'
  return `${shown(value, short ? unit : null)} ±${shown(u, unit)}`
}

/** The wanted range in words: “at most 85°”, “60 ms to 330 ms”. */
export function wanted(within: readonly (number | null)[] | null, unit: string | null): string {
  const [lo, hi] = within ?? [null, null]
  if (lo == null && hi == null) return ''
  if (lo == null) return `at most ${shown(hi as number, unit)}`
  if (hi == null) return `at least ${shown(lo, unit)}`
  return `${shown(lo, unit)} to ${shown(hi, unit)}`
}

/** Seconds as minutes, seconds and thousandths: `00:07.402`. */
export function clock(seconds: number): string {
  const minutes = Math.floor(seconds / 60)
  return `${String(minutes).padStart(2, '0')}:${(seconds - minutes * 60).toFixed(3).padStart(6, '0')}`
}

/** A playing speed: `1×`, `¼×`, `real time`. */
export function shownSpeed(speed: number | 'real'): string {
  if (speed === 'real') return 'real time'
  return `${{ 0.5: '½', 0.25: '¼', 0.125: '⅛' }[speed] ?? speed}×`
}

/** Seconds as people read them: `4 s`, `2 min 05 s`. */
export function seconds(count: number): string {
  const whole = Math.max(0, Math.round(count))
  return whole < 60 ? `${whole} s` : `${Math.floor(whole / 60)} min ${String(whole % 60).padStart(2, '0')} s`
}

/** A capture rate in words: “as filmed”, “8× slowed”, “8× slowed from frame 120, as filmed from 480”. */
export function captured(rates: readonly { frame: number; rate: number }[]): string {
  const one = (rate: number) =>
    Math.abs(rate - 1) < 0.001
      ? 'as filmed'
      : rate > 1
        ? `${Number(rate.toFixed(3))}× slowed`
        : `${Number((1 / rate).toFixed(3))}× quickened`
  const [first, ...later] = rates
  if (!first) return 'as filmed'
  return [one(first.rate), ...later.map(({ frame, rate }) => `${one(rate)} from frame ${frame}`)].join(', ')
}

const DAY = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' })
const LONG_DAY = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'long', year: 'numeric' })

/** An ISO date as a short local date. */
export function day(iso: string): string {
  return DAY.format(new Date(`${iso}T12:00:00`))
}

/** An ISO date as a long local date. */
export function longDay(iso: string): string {
  return LONG_DAY.format(new Date(`${iso}T12:00:00`))
}

/** A moment in the reader's own time: 2026-05-04T10:05:00Z → 4 May, 12:05, with the year where it is another one. */
export function moment(iso: string, now = new Date(), locale?: string): string {
  const at = new Date(iso)
  const options: Intl.DateTimeFormatOptions = { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }
  if (at.getFullYear() !== now.getFullYear()) options.year = 'numeric'
  return at.toLocaleString(locale, options)
}

/** Bytes as people read them. */
export function bytes(count: number): string {
  return count < 1e6 ? `${Math.max(count / 1e3, 0.1).toFixed(1)} kB` : `${(count / 1e6).toFixed(1)} MB`
}

/** Words as a sentence: a capital and a full stop. */
export function sentence(text: string): string {
  // A question keeps its own mark.
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}${/[.?!]$/.test(text) ? '' : '.'}`
}

/** What a student answered on a sheet, in words. */
export function saidWords(said: {
  felt: 'right' | 'off' | null
  tried: boolean | null
  sure: boolean | null
  words: string
}): string {
  const felt = said.felt === 'right' ? 'thought it was right' : said.felt === 'off' ? 'felt it was off' : ''
  const tried = said.tried === null ? '' : said.tried ? 'tried' : 'not tried yet'
  const sure = said.sure === null ? '' : said.sure ? 'sure' : 'unsure'
  return [felt, tried, sure, said.words ? `“${said.words}”` : ''].filter((part) => part).join('; ')
}

/** Spans of days to choose from: how far back to look, how long a link is valid. */
export const DAYS = [
  ['7', '7 days'],
  ['30', '30 days'],
  ['90', '90 days'],
] as const

const RESTS_ON: Record<string, string> = {
  picture: 'the picture',
  lengths: 'the lengths of the limbs',
  mat: 'the marked mat',
  views: 'two views',
  eye: 'a look at the depth',
}

/** What a value rests on: the surest thing, in a word or two. */
export function restsOn(kinds: readonly string[]): string {
  const surest = ['views', 'eye', 'mat', 'lengths', 'picture'].find((kind) => kinds.includes(kind))
  return RESTS_ON[surest ?? 'picture'] ?? ''
}
