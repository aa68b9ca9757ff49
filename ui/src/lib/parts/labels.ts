import type { Schemas } from '../api/client'

/**
 * What the states, verdicts and kinds of the API are called on every screen. docs/glossary.md says what each means, and a test
 * holds the two to each other.
 */

export type Verdict = Schemas['JudgementOut']['verdict']
export type FaultState = Schemas['FaultHistoryOut']['state']
export type Decision = Schemas['StandingOut']['advice']
type Facts = Schemas['RepIn']
type Said<Key extends keyof Facts> = Exclude<Facts[Key], null | undefined>

export const VERDICTS: Record<Verdict, string> = {
  met: 'met',
  borderline: 'borderline',
  missed: 'missed',
  not_seen: 'not seen',
  not_asked: 'not asked',
}

export const FAULT_STATES: Record<FaultState, string> = {
  relapsed: 'relapsed',
  recurring: 'recurring',
  once: 'once',
  fading: 'fading',
  cleared: 'cleared',
  clean: 'clean',
}

/** Stands for a fault's state while its misses are too few for one. */
export const FIRST_SEEN = 'first seen'
/** Stands for “cleared” where a miss came since, in too few reps to call it relapsed. */
export const MISSED_AGAIN = 'missed again'

export const DECISIONS: Record<Decision, string> = {
  advance: 'advance',
  hold: 'hold',
  step_back: 'step back',
}

export const JOB_STATES: Record<Schemas['JobOut']['state'], string> = {
  waiting: 'waiting for the worker',
  running: 'running',
  done: 'done',
  failed: 'failed',
  stopped: 'stopped',
}

export const PURPOSES: Record<Said<'purpose'>, string> = {
  attempt: 'attempt',
  fit_in: 'fit-in',
  drill: 'drill',
  demonstration: 'demonstration, not counted',
}

export const OUTCOMES: Record<Said<'outcome'>, string> = {
  completed: 'completed',
  blocked: 'blocked',
  countered: 'countered',
  released: 'released',
}

export const STANCES: Record<Said<'stance'>, string> = {
  same_lead: 'same lead',
  opposite_lead: 'opposite lead',
  square: 'square',
}

export const PARTNERS: Record<Said<'partner'>, string> = {
  person: 'with a partner',
  none: 'no partner',
  bag: 'bag',
  dummy: 'dummy',
}

export const VIEWS: Record<Said<'view'>, string> = {
  side: 'from the side',
  front: 'from the front',
  behind: 'from behind',
  angle: 'from an angle',
  above: 'from above',
  two: 'two cameras',
}

/** Whether the technique was open when a rep was tried. */
export const CHOICES: Record<NonNullable<Schemas['RepOut']['choice']>, string> = {
  open: 'open',
  wrong: 'wrong choice',
  unknown: 'open or not: cannot be told',
}

/** How much a partner resists. */
export const RESISTANCE: Record<Schemas['StartOut']['resistance'], string> = {
  none: 'no resistance',
  fifth: 'about a fifth',
  half: 'half',
  full: 'full resistance',
}

export const HEADINGS: Record<Said<'heading'>, string> = {
  right: 'facing right →',
  left: '← facing left',
}

/** Label and value of each, as a select lists them. */
export function entries<Key extends string>(labels: Record<Key, string>): [Key, string][] {
  return Object.entries(labels) as [Key, string][]
}
