import {
  newId,
  type BodyName,
  type Checkpoint,
  type ClipTimes,
  type Correction,
  type Judgement,
  type Point,
  type Rep,
  type RepForm,
  type Review,
  type Technique,
} from '../api/client'
import { Player } from '../player/player.svelte'
import * as changes from './changes'
import type { Act, Spot } from './changes'
import { Saver } from './saver.svelte'

export type Tool = 'look' | 'points' | 'arrow' | 'height'
export interface Place {
  x: number
  y: number
}

/** Everything that the bench shows and does. Rules and numbers come from the server; this asks and keeps. */
export class Bench {
  readonly player = new Player()
  readonly saver: Saver
  review = $state.raw() as Review
  tool = $state<Tool>('look')
  repId = $state<string | null>(null)
  checkpointId = $state<string | null>(null)
  selected = $state<Spot | null>(null)
  pickedLandmark = $state<{ body: BodyName; landmark: string } | null>(null)
  dragging = $state<{ spot: Spot; place: Place } | null>(null)
  arrow = $state<{ from: Place; to: Place } | null>(null)
  arrowDrawn = $state(false)
  heightFrom = $state<Place | null>(null)
  heightBody = $state<BodyName>('performer')
  draft = $state<RepForm>() as RepForm
  #undo = $state.raw<Act[]>([])
  #redo = $state.raw<Act[]>([])

  constructor(
    readonly clip: ClipTimes,
    review: Review,
    readonly library: readonly Technique[],
    refused: (error: unknown) => void,
  ) {
    this.review = review
    this.repId = review.reps[0]?.id ?? null
    this.draft = firstDraft(review, library)
    this.saver = new Saver(`lacertus.pending.${review.id}`, (answer, settled) => settled && this.#answered(answer), refused)
    this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
  }

  #answered(review: Review): void {
    this.review = review
    this.dragging = null
    if (this.repId && !review.reps.some((rep) => rep.id === this.repId)) this.repId = review.reps.at(-1)?.id ?? null
  }

  // --- what is current ---------------------------------------------------------------------------

  get finished(): boolean {
    return this.review.finished_at != null
  }
  get rep(): Rep | null {
    return this.review.reps.find((rep) => rep.id === this.repId) ?? null
  }
  get technique(): Technique | null {
    const wanted = this.rep?.technique ?? this.draft.technique
    return this.review.techniques.find((t) => t.id === wanted) ?? this.library.find((t) => t.id === wanted) ?? null
  }
  get checkpoint(): Checkpoint | null {
    return this.technique?.checkpoints.find((c) => c.id === this.checkpointId) ?? null
  }
  get judgement(): Judgement | null {
    return this.rep?.judgements.find((j) => j.id === this.checkpointId) ?? null
  }
  get canUndo(): boolean {
    return this.#undo.length > 0
  }
  get canRedo(): boolean {
    return this.#redo.length > 0
  }

  /** Points on the frame on screen, a dragged one where it is dragged to. */
  get pointsShown(): Point[] {
    const frame = this.player.shown
    const drag = this.dragging
    const points = (this.rep?.points ?? []).filter((point) => point.frame === frame && !(drag && same(drag.spot, point)))
    if (drag && drag.spot.frame === frame) points.push({ ...drag.spot, ...drag.place, hidden: false })
    return points
  }

  /** What the current checkpoint reads, in order, each with its point if it is placed. */
  get needs(): { spot: Spot | null; body: BodyName; landmark: string; point: Point | undefined }[] {
    const rep = this.rep
    if (!rep) return []
    return rep.needs
      .filter((need) => need.checkpoint === this.checkpointId)
      .map(({ body, landmark, frame }) => {
        const spot = frame == null ? null : { body, landmark, frame }
        return { spot, body, landmark, point: spot ? changes.findPoint(rep, spot) : undefined }
      })
  }

  /** The next landmark to place: the one picked, else the first that the checkpoint still lacks. */
  get asked(): Spot | null {
    if (this.pickedLandmark) return { ...this.pickedLandmark, frame: this.player.shown }
    return this.needs.find((need) => need.spot && !need.point)?.spot ?? null
  }

  get nextEvent(): string | null {
    const rep = this.rep
    return (rep && this.technique?.events.find((event) => !(event.key in rep.events))?.key) ?? null
  }

  get correctionsShown(): Correction[] {
    return this.review.corrections.filter((c) => c.rep_id === this.repId && c.frame === this.player.shown)
  }

  // --- doing and taking back -----------------------------------------------------------------------

  act(act: Act): void {
    if (this.finished) return
    this.#undo = [...this.#undo, act]
    this.#redo = []
    this.saver.add(act.forward)
  }
  undo(): void {
    const act = this.#undo.at(-1)
    if (!act || this.finished) return
    this.#undo = this.#undo.slice(0, -1)
    this.#redo = [...this.#redo, act]
    this.saver.add(act.backward)
  }
  redo(): void {
    const act = this.#redo.at(-1)
    if (!act || this.finished) return
    this.#redo = this.#redo.slice(0, -1)
    this.#undo = [...this.#undo, act]
    this.saver.add(act.forward)
  }

  // --- reps -----------------------------------------------------------------------------------------

  choose(repId: string | null): void {
    this.repId = repId
    this.selected = null
    const rep = this.rep
    if (rep) this.player.go(rep.first_frame)
    else this.draft = { ...this.draft, first_frame: -1, last_frame: -1 }
    if (!this.technique?.checkpoints.some((c) => c.id === this.checkpointId)) this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
  }

  /** Set the start or end of the current rep, or of the next one to cut. */
  setEdge(edge: 'first_frame' | 'last_frame'): void {
    const frame = this.player.shown
    const rep = this.rep
    if (rep) {
      const valid = edge === 'first_frame' ? frame <= rep.last_frame : frame >= rep.first_frame
      if (valid) this.act(changes.changeRep(this.review.id, rep, { [edge]: frame }))
      return
    }
    this.draft = { ...this.draft, [edge]: frame }
    const { first_frame: first, last_frame: last } = this.draft
    if (first >= 0 && last > first) this.#cut()
  }

  #cut(): void {
    const id = newId()
    this.act(changes.cutRep(this.review.id, id, $state.snapshot(this.draft)))
    this.repId = id
    this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
  }

  describe(change: Partial<RepForm>): void {
    const rep = this.rep
    if (rep) this.act(changes.changeRep(this.review.id, rep, change))
    else this.draft = { ...this.draft, ...change }
  }

  deleteRep(): void {
    if (this.rep) this.act(changes.deleteRep(this.review.id, this.rep, this.review.corrections))
  }

  // --- events and answers ---------------------------------------------------------------------------

  /** Mark an event at the frame on screen; on its own frame again takes the mark away. */
  mark(event: string): void {
    const rep = this.rep
    if (!rep) return
    const frame = this.player.shown
    const again = rep.events[event]?.includes(frame)
    this.act(changes.markEvent(rep, event, again ? null : [frame]))
  }
  didNotHappen(event: string): void {
    const rep = this.rep
    if (!rep) return
    this.act(changes.markEvent(rep, event, rep.events[event]?.length === 0 ? null : []))
  }
  answer(yes: boolean): void {
    const rep = this.rep
    if (!rep || !this.checkpoint?.by_eye) return
    this.act(changes.answer(rep, this.checkpoint.id, rep.answers[this.checkpoint.id] === yes ? null : yes))
  }

  // --- checkpoints ----------------------------------------------------------------------------------

  chooseCheckpoint(id: string): void {
    this.checkpointId = id
    this.pickedLandmark = null
    this.selected = null
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

  // --- points ---------------------------------------------------------------------------------------

  place(spot: Spot, place: Place): void {
    const rep = this.rep
    if (!rep) return
    this.dragging = { spot, place }
    this.selected = spot
    this.act(changes.placePoint(rep, spot, round(place.x), round(place.y)))
  }
  nudge(dx: number, dy: number): void {
    const point = this.selected && this.rep ? changes.findPoint(this.rep, this.selected) : undefined
    const from = this.dragging && this.selected && same(this.dragging.spot, this.selected) ? this.dragging.place : point
    if (!from || !this.selected) return
    this.place(this.selected, { x: clamp(from.x + dx, this.clip.width), y: clamp(from.y + dy, this.clip.height) })
  }
  removeSelected(): void {
    const point = this.selected && this.rep ? changes.findPoint(this.rep, this.selected) : undefined
    if (point && this.rep) this.act(changes.removePoint(this.rep, point))
    this.selected = null
  }

  // --- corrections and height -----------------------------------------------------------------------

  get canCorrect(): boolean {
    return !this.finished && (this.judgement?.counts_as_missed ?? false)
  }
  saveArrow(cue: string): void {
    const { rep, arrow, checkpoint } = this
    if (!rep || !arrow || !checkpoint) return
    const form = {
      checkpoint: checkpoint.id,
      frame: this.player.shown,
      from_x: round(arrow.from.x),
      from_y: round(arrow.from.y),
      to_x: round(arrow.to.x),
      to_y: round(arrow.to.y),
      cue,
    }
    this.act(changes.drawCorrection(rep.id, newId(), form))
    this.dropTool()
  }
  markHeight(place: Place): void {
    if (!this.heightFrom) return void (this.heightFrom = place)
    const px = Math.hypot(place.x - this.heightFrom.x, place.y - this.heightFrom.y)
    this.act(changes.setHeight(this.review.id, this.heightBody, round(px), this.review.heights_px[this.heightBody]))
    this.dropTool()
  }
  take(tool: Tool): void {
    this.player.pause()
    this.tool = this.tool === tool ? 'look' : tool
    this.arrow = this.heightFrom = null
    this.arrowDrawn = false
    if (this.tool === 'points') this.goToReading()
  }
  dropTool(): void {
    this.tool = 'look'
    this.arrow = this.heightFrom = this.selected = this.pickedLandmark = null
    this.arrowDrawn = false
  }
}

export function same(a: Spot, b: Spot): boolean {
  return a.body === b.body && a.landmark === b.landmark && a.frame === b.frame
}

function round(value: number): number {
  return Math.round(value * 100) / 100
}

function clamp(value: number, most: number | null): number {
  return Math.max(0, Math.min(most ?? 0, value))
}

/** How the next rep will be cut: like the last one, else a plain attempt at the first technique. */
function firstDraft(review: Review, library: readonly Technique[]): RepForm {
  const last = review.reps.at(-1)
  const form = last ? changes.repForm(last) : null
  const plain: RepForm = {
    first_frame: -1, last_frame: -1, side: 'right', technique: library[0]?.id ?? '', options: {}, heading: 'right',
    view: 'side', partner: 'person', pace: 'full', rung: null, purpose: 'attempt',
  }
  return { ...plain, ...form, first_frame: -1, last_frame: -1 }
}
