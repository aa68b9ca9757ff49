import type { Schemas } from '../api/client'

export type Kind = Schemas['EyeQuestionOut']['kind']

/** What is asked, in a word or two. */
export const KINDS: Record<Kind, string> = {
  frame: 'Mark the event',
  angle: 'Say the angle',
  missed: 'What was missed',
  right: 'Which was right',
  open: 'Was the way open',
  answer: 'The right answer',
}

/** How far an answer is off, in words. */
export function offBy(scored: Schemas['EyeScoredOut']): string {
  if (scored.frames != null && scored.ms != null) {
    if (scored.frames === 0) return 'On the frame.'
    const frames = Math.abs(scored.frames)
    const way = scored.frames > 0 ? 'late' : 'early'
    return `${frames} ${frames === 1 ? 'frame' : 'frames'} ${way} (${Math.abs(scored.ms).toFixed(0)} ms).`
  }
  if (scored.degrees != null) {
    const first = degreesOff(scored.degrees)
    return scored.after == null ? `${first}.` : `${first}; with the wanted range shown, ${degreesOff(scored.after)}.`
  }
  return scored.hit ? 'Right.' : 'Wrong.'
}

function degreesOff(off: number): string {
  const size = Math.abs(off).toFixed(0)
  return size === '0' ? 'exactly right' : `${size}° too ${off > 0 ? 'large' : 'small'}`
}

/** A mean error with its interval: “12 ms late (4 to 20)”. */
export function biasWords(spread: Schemas['EyeSpreadOut'], unit: 'ms' | '°'): string {
  const [low, high] = spread.bias_within ?? []
  if (spread.bias == null || low == null || high == null) return 'too few answers'
  const gap = unit === 'ms' ? ' ms' : '°'
  return `${signed(spread.bias)}${gap} (${signed(low)} to ${signed(high)})`
}

/** A standard deviation with its interval. */
export function scatterWords(spread: Schemas['EyeSpreadOut'], unit: 'ms' | '°'): string {
  const [low, high] = spread.scatter_within ?? []
  if (spread.scatter == null || low == null || high == null) return 'too few answers'
  return `${spread.scatter.toFixed(0)}${unit === 'ms' ? ' ms' : '°'} (${low.toFixed(0)} to ${high.toFixed(0)})`
}

/** Whether an interval of a mean lies on one side of nought: the eye is truly late or early there. */
export function isBiased(spread: Schemas['EyeSpreadOut']): boolean {
  const [low, high] = spread.bias_within ?? []
  return low != null && high != null && low * high > 0
}

function signed(value: number): string {
  const text = Math.abs(value).toFixed(0)
  return text === '0' ? '0' : `${value < 0 ? '−' : '+'}${text}`
}

export function rateWords(rate: Schemas['EyeRateOut']): string {
  if (rate.of === 0) return '–'
  const [low = 0, high = 1] = rate.within
  const percent = (share: number) => Math.round(100 * share)
  return `${percent(rate.n / rate.of)} % of ${rate.of} (${percent(low)}–${percent(high)} %)`
}
