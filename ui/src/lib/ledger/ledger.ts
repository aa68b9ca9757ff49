import type { Schemas } from '../api/client'

type State = Schemas['FaultHistoryOut']['state']

/** Every state of a fault: its sign and its word. */
export const STATES: Record<State, { glyph: string; word: string }> = {
  relapsed: { glyph: '↺', word: 'relapsed' },
  recurring: { glyph: '≡', word: 'recurring' },
  once: { glyph: '−', word: 'once' },
  fading: { glyph: '↘', word: 'fading' },
  cleared: { glyph: '✓', word: 'cleared' },
  clean: { glyph: '○', word: 'clean' },
}

/** A share as per cent. */
export function share(value: number): string {
  return `${Math.round(100 * value)} %`
}

/** What a cell says, in words. */
export function cellWords(cell: Schemas['CellOut']): string {
  const parts = cell.exposures ? [`missed in ${cell.misses} of ${cell.exposures} reps`] : []
  if (cell.borderline) parts.push(`${cell.borderline} borderline`)
  if (cell.not_seen) parts.push(`${cell.not_seen} not seen`)
  parts.push(cell.changed ? `from then on ${STATES[cell.state].word}` : STATES[cell.state].word)
  return parts.join(', ')
}

/** Which way it goes: the miss rate of the later half of the sessions against the earlier one. */
export function trendOf(lately: readonly number[] | null): string {
  const [later, earlier] = lately ?? []
  if (later === undefined || earlier === undefined) return ''
  const way = Math.abs(later - earlier) < 0.1 ? '→ the same' : later < earlier ? '↓ less' : '↑ more'
  return `${way}: ${share(earlier)} then, ${share(later)} now`
}
