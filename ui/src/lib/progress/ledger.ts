import type { Schemas } from '../api/client'

import { DECISIONS, FAULT_STATES, FIRST_SEEN, MISSED_AGAIN, entries, type FaultState as State } from '../parts/labels'

/** The sign of every state of a fault. */
const GLYPHS: Record<State, string> = {
  relapsed: '↺',
  recurring: '≡',
  once: '−',
  fading: '↘',
  cleared: '✓',
  clean: '○',
}

/** Every state of a fault: its sign and its word. */
export const STATES = Object.fromEntries(
  entries(FAULT_STATES).map(([state, word]) => [state, { glyph: GLYPHS[state], word }]),
) as Record<State, { glyph: string; word: string }>

/** What a fault's row shows as its state: sign, word, class, what it means where the word alone does not say, and a few words
 * that stand beside it where it would seem to contradict the newest count. */
export function stateOf(
  row: Pick<Schemas['FaultHistoryOut'], 'state' | 'first_seen' | 'missed_again'> & {
    days?: readonly Pick<Schemas['CellOut'], 'misses'>[]
  },
): {
  glyph: string
  word: string
  kind: string
  says: string | undefined
  beside: string
} {
  if (row.first_seen)
    return {
      glyph: '+',
      word: FIRST_SEEN,
      kind: 'first-seen',
      says: 'Missed, in fewer than three judged reps so far. That is too few for a state.',
      beside: '',
    }
  if (row.missed_again)
    return {
      glyph: '+',
      word: MISSED_AGAIN,
      kind: 'first-seen',
      says: 'It had cleared and was missed again since, in fewer than three judged reps.',
      beside: 'too few reps to call it relapsed',
    }
  const beside = row.state === 'cleared' && row.days?.at(-1)?.misses ? 'one miss does not undo it' : ''
  return { ...STATES[row.state], kind: row.state, says: undefined, beside }
}

/** A share as per cent; the sign stays with its number at a line's end. */
export function share(value: number): string {
  return `${Math.round(100 * value)}\u00a0%`
}

/** An interval of a share, from and to; it is not broken at a line's end. */
export function between([from = 0, to = 1]: readonly number[]): string {
  return `${Math.round(100 * from)}\u2060–\u2060${share(to)}`
}

/** What a cell says, in words. */
export function cellWords(cell: Schemas['CellOut']): string {
  const parts = cell.exposures ? [`missed in ${cell.misses} of ${cell.exposures} reps`] : []
  if (cell.borderline) parts.push(`${cell.borderline} borderline`)
  if (cell.not_seen) parts.push(`${cell.not_seen} not seen`)
  // A day with misses that is still called clean or cleared has not closed a block yet.
  const open = cell.misses > 0 ? { clean: FIRST_SEEN, cleared: MISSED_AGAIN }[cell.state as string] : undefined
  const state = open ?? STATES[cell.state].word
  parts.push(cell.changed ? `from then on ${state}` : state)
  return parts.join(', ')
}

/** Which way it goes: the miss rate of the later half of the sessions, with its 95 % interval, against the
 * earlier one. */
export function trendOf(lately: readonly Pick<Schemas['HistoryPartOut'], 'rate' | 'interval'>[] | null): string {
  const [later, earlier] = lately ?? []
  if (later === undefined || earlier === undefined) return ''
  const way = Math.abs(later.rate - earlier.rate) < 0.1 ? '→ the same' : later.rate < earlier.rate ? '↓ less' : '↑ more'
  return `${way}: ${share(earlier.rate)} then, ${share(later.rate)} now (${between(later.interval)})`
}

export interface Timeline {
  first: string
  last: string
  /** Where a session lies: `at` as a share of the time shown, `rung` as its place on the ladder. */
  sessions: { on: string; at: number; rung: number; reps: number }[]
  decisions: { on: string; at: number; rung: number; glyph: string; words: string }[]
  /** The rung decided on, as a line that steps at each decision. */
  steps: { at: number; rung: number }[]
  words: string
}

/** Sessions and decisions on a technique's ladder over time; nothing where there are no two days to draw between. */
export function timeline(standing: Pick<Schemas['StandingOut'], 'ladder' | 'sessions' | 'decisions'>): Timeline | null {
  const { ladder } = standing
  const sessions = standing.sessions.filter((one) => one.rung != null && ladder.includes(one.rung))
  const decisions = standing.decisions
    .filter((one) => ladder.includes(one.to_rung) && ladder.includes(one.from_rung))
    .toReversed()
  const days = [...sessions.map((one) => one.on), ...decisions.map((one) => one.decided_on)].toSorted()
  const [first, last] = [days[0], days.at(-1)]
  if (!first || !last || first === last) return null
  const at = (on: string) => (Date.parse(on) - Date.parse(first)) / (Date.parse(last) - Date.parse(first))
  const steps = decisions.flatMap((one, i) => [
    { at: i === 0 ? 0 : at(one.decided_on), rung: ladder.indexOf(one.from_rung) },
    { at: at(one.decided_on), rung: ladder.indexOf(one.from_rung) },
    { at: at(one.decided_on), rung: ladder.indexOf(one.to_rung) },
  ])
  const end = steps.at(-1)
  if (end) steps.push({ at: 1, rung: end.rung })
  return {
    first,
    last,
    sessions: sessions.map((one) => ({
      on: one.on,
      at: at(one.on),
      rung: ladder.indexOf(one.rung ?? ''),
      reps: one.reps,
    })),
    decisions: decisions.map((one) => ({
      on: one.decided_on,
      at: at(one.decided_on),
      rung: ladder.indexOf(one.to_rung),
      glyph: { advance: '↑', hold: '=', step_back: '↓' }[one.decision],
      words: `${DECISIONS[one.decision]}${one.why ? `, ${one.why}` : ''}`,
    })),
    steps,
    words: [
      ...sessions.map((one) => `${one.on} ${one.rung}`),
      ...decisions.map((one) => `${one.decided_on} ${one.decision}`),
    ]
      .map((text) => text.replace('_', ' '))
      .join('; '),
  }
}
