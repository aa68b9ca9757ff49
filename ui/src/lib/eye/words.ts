import type { Schemas } from '../api/client'
import { msg, say } from './say'

export type Kind = Schemas['EyeQuestionOut']['kind']

/** What is asked, in a word or two. */
export const KINDS: Record<Kind, string> = {
  frame: msg('Mark the event'),
  angle: msg('Say the angle'),
  missed: msg('What was missed'),
  right: msg('Which was right'),
  open: msg('Was the way open'),
  answer: msg('The right answer'),
}

/** How far an answer is off, in words. */
export function offBy(scored: Schemas['EyeScoredOut']): string {
  if (scored.frames != null && scored.ms != null) {
    if (scored.frames === 0) return say('On the frame.')
    const values = { frames: Math.abs(scored.frames), ms: Math.abs(scored.ms).toFixed(0) }
    if (values.frames === 1)
      return scored.frames > 0 ? say('1 frame late ({ms} ms).', values) : say('1 frame early ({ms} ms).', values)
    return scored.frames > 0
      ? say('{frames} frames late ({ms} ms).', values)
      : say('{frames} frames early ({ms} ms).', values)
  }
  if (scored.degrees != null) {
    const off = degreesOff(scored.degrees)
    return scored.after == null
      ? `${off}.`
      : say('{off}; with the wanted range shown, {after}.', { off, after: degreesOff(scored.after) })
  }
  return scored.hit ? say('Right.') : say('Wrong.')
}

function degreesOff(off: number): string {
  const size = Math.abs(off).toFixed(0)
  if (size === '0') return say('exactly right')
  return off > 0 ? say('{degrees}° too large', { degrees: size }) : say('{degrees}° too small', { degrees: size })
}

/** A mean error with its interval: “12 ms late (4 to 20)”. */
export function biasWords(spread: Schemas['EyeSpreadOut'], unit: 'ms' | '°'): string {
  const [low, high] = spread.bias_within ?? []
  if (spread.bias == null || low == null || high == null) return '–'
  const gap = unit === 'ms' ? ' ms' : '°'
  return say('{value} ({low} to {high})', {
    value: `${signed(spread.bias)}${gap}`,
    low: signed(low),
    high: signed(high),
  })
}

/** A standard deviation with its interval. */
export function scatterWords(spread: Schemas['EyeSpreadOut'], unit: 'ms' | '°'): string {
  const [low, high] = spread.scatter_within ?? []
  if (spread.scatter == null || low == null || high == null) return '–'
  const value = `${spread.scatter.toFixed(0)}${unit === 'ms' ? ' ms' : '°'}`
  return say('{value} ({low} to {high})', { value, low: low.toFixed(0), high: high.toFixed(0) })
}

/** Whether an interval of a mean lies on one side of nought, as it is shown: the eye is truly late or early there. */
export function isBiased(spread: Schemas['EyeSpreadOut']): boolean {
  const [low, high] = spread.bias_within ?? []
  return low != null && high != null && Math.round(low) * Math.round(high) > 0
}

function signed(value: number): string {
  const text = Math.abs(value).toFixed(0)
  return text === '0' ? '0' : `${value < 0 ? '−' : '+'}${text}`
}

export function rateWords(rate: Schemas['EyeRateOut']): string {
  if (rate.of === 0) return '–'
  const [low = 0, high = 1] = rate.within
  const percent = (share: number) => Math.round(100 * share)
  return say('{share} % of {count} ({low}–{high} %)', {
    share: percent(rate.n / rate.of),
    count: rate.of,
    low: percent(low),
    high: percent(high),
  })
}
