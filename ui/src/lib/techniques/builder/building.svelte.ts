import { client, unwrap, type Schemas } from '../../api/client'
import type { Figure } from '../../figure/motion'
import { sentence } from '../../parts/words'
import { named, TechniqueFile, type Change, type Path } from './file'
import { formOf, type Form } from './forms'

export const STEPS = ['name', 'movement', 'checkpoints', 'drills'] as const
export type Step = (typeof STEPS)[number]
type Problem = Schemas['ProblemOut']
export type BodyName = 'performer' | 'partner'

/** In which step a key of the file is changed; what no step shows is changed in the text. */
const STEP_OF: Record<string, Step> = {
  id: 'name',
  names: 'name',
  family: 'name',
  summary: 'name',
  works_when: 'name',
  cautions: 'name',
  sides: 'name',
  best_view: 'name',
  phases: 'movement',
  events: 'movement',
  moves_like: 'movement',
  checkpoints: 'checkpoints',
  drills: 'drills',
}

interface Source {
  text: string
  problems: readonly Problem[]
  /** It has no name in the file yet: its id follows what it is called. */
  isNew: boolean
}

/** A technique being put together in steps: the file, what is wrong with it, and what it is put together from. */
export class Building {
  step = $state<Step>('name')
  chosen = $state(0)
  readonly file = $derived.by(() => new TechniqueFile(this.source().text))

  constructor(
    private readonly source: () => Source,
    private readonly changed: (text: string) => void,
    readonly parts: Schemas['BuildingOut'],
    /** Shipped techniques, id and name. */
    readonly techniques: readonly { id: string; name: string }[],
  ) {}

  set(...changes: Change[]): void {
    this.changed(this.file.with(...changes))
  }
  take(text: string): void {
    this.changed(text)
  }

  // --- what is wrong -------------------------------------------------------------------------------

  get problems(): readonly Problem[] {
    return this.source().problems
  }
  at(...path: Path): Problem[] {
    return this.problems.filter((problem) => path.every((part, i) => String(problem.path[i]) === String(part)))
  }
  stepOf(problem: Problem): Step | null {
    return STEP_OF[String(problem.path[0])] ?? null
  }
  in(step: Step): Problem[] {
    return this.problems.filter((problem) => this.stepOf(problem) === step)
  }
  /** Go where a problem is mended. */
  goTo(problem: Problem): void {
    this.step = this.stepOf(problem) ?? this.step
    if (this.step === 'checkpoints') this.chosen = Number(problem.path[1] ?? this.chosen)
  }

  // --- name ----------------------------------------------------------------------------------------

  call(name: string): void {
    const id = named(name, '-')
    this.set([['names', 'main'], name], ...(this.source().isNew && id ? ([[['id'], id]] as const) : []))
  }

  // --- movement ------------------------------------------------------------------------------------

  /** The shipped technique whose figure is shown, empty for none. */
  get model(): string {
    const { moving } = this.parts
    const like = this.file.words(['moves_like', 'technique'])
    const own = this.file.words(['id'])
    return moving.includes(like) ? like : !like && moving.includes(own) ? own : ''
  }
  get phases(): string[] {
    return this.file.list(['phases']).map(String)
  }
  get events(): string[] {
    return this.file.keys(['events'])
  }
  /** When an event happens on the figure: as it was marked, or as the figure's own technique has it. */
  secondsOf(event: string, figure: Figure | undefined): number | null {
    const marked = this.file.at(['moves_like', 'events', event])
    return typeof marked === 'number' ? marked : (figure?.events_s[event] ?? null)
  }
  timesOn(figure: Figure | undefined): Record<string, number> {
    const found = this.events.map((event) => [event, this.secondsOf(event, figure)] as const)
    return Object.fromEntries(found.filter((one): one is [string, number] => one[1] !== null))
  }
  /** The events in the order in which they happen. */
  inOrder(figure: Figure | undefined): string[] {
    const times = this.timesOn(figure)
    return [...this.events].sort((a, b) => (times[a] ?? Infinity) - (times[b] ?? Infinity))
  }
  /** Add an instant: what it is called, and what is seen in its first frame. */
  addEvent(
    called: string,
    seen: string,
    of: { phase: string; body: BodyName },
    seconds: number | null,
    figure?: Figure,
  ) {
    const plain = named(called, '_') || 'event'
    let key = plain
    for (let i = 2; this.events.includes(key); i++) key = `${plain}_${i}`
    const times = this.timesOn(figure)
    const before = seconds === null ? null : (this.events.find((one) => (times[one] ?? -1) > seconds) ?? null)
    const { phase, body } = of
    const event = { phase, mark: `First frame in which ${seen.trim()}`, ...(body === 'partner' ? { body } : {}) }
    const at = this.model && seconds !== null ? round(seconds) : null
    this.take(this.file.withEvent(key, event, at, before))
    if (at !== null && !this.file.words(['moves_like', 'technique']))
      this.set([['moves_like', 'technique'], this.model])
  }
  moveEvent(event: string, seconds: number): void {
    this.set([['moves_like', 'technique'], this.model], [['moves_like', 'events', event], round(seconds)])
  }
  /** The checkpoints that read an event, by what they ask. */
  readersOf(event: string): string[] {
    return this.file
      .list(['checkpoints'])
      .filter((one) => JSON.stringify((one as { measure?: unknown }).measure ?? '').includes(`"${event}"`))
      .map((one) => String((one as { ask?: unknown }).ask ?? ''))
  }
  deleteEvent(event: string): void {
    this.set([['events', event], undefined], [['moves_like', 'events', event], undefined])
  }

  // --- checkpoints ---------------------------------------------------------------------------------

  get count(): number {
    return this.file.list(['checkpoints']).length
  }
  get path(): Path {
    return ['checkpoints', this.chosen]
  }
  get form(): Form | undefined {
    return formOf(this.file, this.path, this.parts.forms)
  }
  addCheckpoint(form: Form, measure: Record<string, unknown>): void {
    const ids = this.file.list(['checkpoints']).map((one) => String((one as { id?: unknown }).id))
    let number = this.count + 1
    while (ids.includes(`checkpoint_${number}`)) number++
    const checkpoint = {
      id: `checkpoint_${number}`,
      phase: this.phaseOf(measure),
      kind: form.kind,
      ask: '',
      measure,
      ...(form.wanted ? { within: form.wanted.usual } : {}),
      fault: { code: '', family: form.fault },
      cues: [''],
      why: '',
    }
    this.set([['checkpoints', this.count], checkpoint])
    this.chosen = this.count - 1
  }
  /** Another sentence for the checkpoint: its words stay. */
  writeAs(form: Form, measure: Record<string, unknown>): void {
    const { path } = this
    this.set(
      [[...path, 'kind'], form.kind],
      [[...path, 'measure'], measure],
      [[...path, 'within'], form.wanted?.usual],
      [[...path, 'phase'], this.phaseOf(measure)],
    )
  }
  /** The phase of the last event that a measure reads. */
  phaseOf(measure: Record<string, unknown>): string {
    const read = JSON.stringify(measure)
    const last = this.events.findLast((event) => read.includes(`"${event}"`))
    return (last && this.file.words(['events', last, 'phase'])) ?? this.phases.at(-1) ?? ''
  }
  /** A new checkpoint is named in the file by what it asks. */
  nameByAsk(): void {
    const { path } = this
    const id = named(this.file.words([...path, 'ask']), '_')
    const fresh = /^checkpoint_\d+$/.test(this.file.words([...path, 'id']))
    const free = !this.file.list(['checkpoints']).some((one) => (one as { id?: unknown }).id === id)
    if (fresh && free && id) this.set([[...path, 'id'], id])
  }
  deleteCheckpoint(at: number): void {
    this.set([['checkpoints', at], undefined])
    this.chosen = Math.max(0, Math.min(this.chosen, this.count - 1))
  }
}

const round = (seconds: number) => Math.round(seconds * 1000) / 1000

/** A problem as it is told beside its field. */
export function told(problem: { message: string }, value: string): string {
  return value.trim() === '' ? 'Please fill this in.' : sentence(problem.message)
}

/** What a measure comes to on a technique's figure. */
export function sampled(technique: string, events: Record<string, number>, kind: string, measure: unknown) {
  return unwrap(
    client.POST('/api/techniques/sampled', {
      body: { technique, events, kind, measure: measure as Record<string, unknown> },
    }),
  )
}
