import {
  client,
  unwrap,
  type Change,
  type Checkpoint,
  type ClipTimes,
  type Judgement,
  type Rep,
  type Review,
  type Technique,
  type View,
} from '../../api/client'
import { TwoViews } from './twoViews.svelte'
import { asked } from '../../parts/asked.svelte'
import { Player } from '../../player/player.svelte'
import { BlindRemarking } from './blind.svelte'
import { changedVerdicts, type ChangedVerdict } from './changed'
import type { Act } from './changes'
import { Corrections } from './corrections.svelte'
import { Curves } from './curves.svelte'
import { Cutting } from './cutting.svelte'
import type { Desk, Tool } from './desk'
import { Fixes } from './fixes.svelte'
import { Guide } from './guide.svelte'
import { sendOf } from './held'
import { History } from './history.svelte'
import { Live } from './live.svelte'
import { Marking } from './marking.svelte'
import { Others } from './others.svelte'
import { OverMat } from './mat.svelte'
import { Points } from './points.svelte'
import { Reference } from './reference.svelte'
import { Saver } from './saver.svelte'
import { SpaceFigures } from './space.svelte'
import { StrandView } from './strand.svelte'
import { Tracking } from './tracking.svelte'
import { Zoom } from './zoom.svelte'

/** Everything that the bench shows and does, put together of its parts. Rules and numbers come from the server. */
export class Bench implements Desk {
  readonly player = new Player()
  readonly secondPlayer = new Player()
  readonly views = new TwoViews()
  readonly zoom = new Zoom()
  readonly live = new Live()
  readonly saver: Saver
  review = $state.raw() as Review
  repId = $state<string | null>(null)
  /** Whoever looks may change nothing. */
  watching = $state(false)
  checkpointId = $state<string | null>(null)
  tool = $state<Tool>('look')
  /** The list of what is left is open, before the review is finished. */
  finishAsked = $state(false)
  /** The verdicts that the last change moved. */
  changed = $state.raw<readonly ChangedVerdict[]>([])
  secondView = $state.raw<View | null>(null)
  #reading = false

  readonly history = new History(this)
  readonly strand = new StrandView(this)
  readonly marking = new Marking(this)
  readonly points = new Points(this)
  readonly tracking = new Tracking(this)
  readonly reference = new Reference(this)
  readonly mat = new OverMat(this)
  readonly space = new SpaceFigures(this)
  readonly blind = new BlindRemarking(this)
  readonly fixes = new Fixes(this)
  readonly corrections = new Corrections(this)
  readonly curves = new Curves(this)
  readonly guide = new Guide(this)
  readonly others = new Others(this)
  readonly cutting: Cutting

  constructor(
    readonly clip: ClipTimes,
    review: Review,
    readonly library: readonly Technique[],
    refused: (error: unknown) => void,
    /** Whose changes these are: what waits for the server is sent by no other. */
    account: string,
  ) {
    this.review = review
    this.cutting = new Cutting(this, library)
    this.repId = review.reps[0]?.id ?? null
    this.secondView = clip.views.find((view) => view.frame != null) ?? null
    this.saver = new Saver(
      `lacertus.pending.${account}.${review.id}`,
      (answer, settled) => settled && this.#answered(answer),
      refused,
      localStorage,
      (change) => sendOf(this.review, change),
      undefined,
      (error) => asked.ask('Changed meanwhile', error.message, 'Save mine'),
    )
    this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
  }

  #answered(review: Review): void {
    this.#take(review)
    this.points.dragging = null
    this.live.rest()
    if (this.repId && !review.reps.some((rep) => rep.id === this.repId)) this.repId = review.reps.at(-1)?.id ?? null
  }

  /** Show a review as it is now, and what of its verdicts is not as it was. */
  #take(review: Review): void {
    this.changed = changedVerdicts(this.review, review)
    this.review = review
  }

  // --- what is current ---------------------------------------------------------------------------

  /** Nothing can be changed: the review is finished, or whoever looks may change nothing. */
  get finished(): boolean {
    return this.watching || this.review.finished_at != null
  }
  get saving(): boolean {
    return this.saver.waiting.length > 0
  }
  get rep(): Rep | null {
    return this.review.reps.find((rep) => rep.id === this.repId) ?? null
  }
  get reps(): Rep[] {
    return this.cutting.reps
  }
  get technique(): Technique | null {
    const wanted = this.rep?.technique ?? this.cutting.draft.technique
    return this.review.techniques.find((t) => t.id === wanted) ?? this.library.find((t) => t.id === wanted) ?? null
  }
  get checkpoint(): Checkpoint | null {
    return this.technique?.checkpoints.find((c) => c.id === this.checkpointId) ?? null
  }
  /** The current rep's judgements, as measured live while a point is dragged. */
  get judgements(): Judgement[] {
    const live = this.live.judgements
    return live && live.rep === this.repId ? live.found : (this.rep?.judgements ?? [])
  }
  get judgement(): Judgement | null {
    return this.judgements.find((j) => j.id === this.checkpointId) ?? null
  }
  /** Which rep this is, as the coach counts them. */
  numberOf(rep: Rep): number {
    return this.review.reps.findIndex((other) => other.id === (rep.blind_of ?? rep.id)) + 1
  }

  // --- doing -------------------------------------------------------------------------------------

  act(act: Act): void {
    this.history.act(act)
  }
  /** The number of the newest change that is on screen. */
  get revision(): number {
    return this.review.revision
  }
  send(changes: readonly Change[], seen = this.revision): void {
    this.saver.add(changes.map((change) => ({ ...change, seen })))
  }
  tell(error: unknown): void {
    this.saver.failure = error instanceof Error ? error.message : String(error)
  }
  /** Read the review anew, unless something is being saved: its answer brings the newest. */
  async refresh(): Promise<void> {
    if (this.saving || this.#reading) return
    this.#reading = true
    const before = this.saver.savedAt
    try {
      const found = await unwrap(
        client.GET('/api/reviews/{review_id}', { params: { path: { review_id: this.review.id } } }),
      )
      // What was saved meanwhile has brought a newer answer than this one.
      if (!this.saving && this.saver.savedAt === before && !this.points.dragging) this.#take(found)
    } catch (error) {
      this.tell(error)
    } finally {
      this.#reading = false
    }
  }

  // --- choosing ----------------------------------------------------------------------------------

  choose(repId: string | null): void {
    this.repId = repId
    this.changed = []
    this.strand.span = null
    this.points.selected = null
    this.marking.overruling = false
    this.marking.outside = null
    this.corrections.close()
    this.player.loop = null
    const rep = this.rep
    if (rep) {
      this.player.go(rep.first_frame)
      this.guide.rests(rep.first_frame)
    } else this.cutting.begin()
    if (!this.technique?.checkpoints.some((c) => c.id === this.checkpointId))
      this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
  }
  /** A rep was cut just now: it is the current one, at its first checkpoint. */
  chooseCut(id: string, first: number | null = null): void {
    this.repId = id
    this.changed = []
    if (first !== null) this.player.go(first)
    this.guide.rests(this.player.wanted)
    this.strand.span = null
    this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
  }
  needing(rep: Rep): ReadonlySet<string> {
    return new Set(
      this.guide.guiding(rep).flatMap((one) => (one.kind === 'points' && one.checkpoint ? [one.checkpoint] : [])),
    )
  }
  chooseCheckpoint(id: string): void {
    this.checkpointId = id
    this.points.cross = null
    this.corrections.close()
    this.points.picked = this.points.selected = null
    this.goToReading()
  }
  stepCheckpoint(by: number): void {
    const all = this.technique?.checkpoints ?? []
    const at = all.findIndex((c) => c.id === this.checkpointId)
    const next = all[Math.max(0, Math.min(all.length - 1, at + by))]
    if (next) this.chooseCheckpoint(next.id)
  }
  /** Show the frame that the checkpoint is read at, where its event is marked. */
  goToReading(): void {
    const frames = (this.checkpoint?.at ?? []).map((event) => this.rep?.events[event]?.[0])
    const frame = this.judgement?.frames[0] ?? frames.find((f) => f !== undefined)
    if (frame !== undefined) this.player.go(frame)
  }

  // --- tools -------------------------------------------------------------------------------------

  take(tool: Tool): void {
    this.player.pause()
    this.tool = this.tool === tool ? 'look' : tool
    this.reference.heightFrom = this.corrections.placing = null
    if (this.tool === 'points') this.goToReading()
  }
  dropTool(): void {
    this.tool = 'look'
    this.reference.collecting = this.reference.heightFrom = null
    this.marking.overruling = this.fixes.choosing = false
    this.marking.outside = null
    this.live.rest()
    this.points.rest()
    this.corrections.close()
  }
}
