import {
  client,
  newId,
  send,
  unwrap,
  type BodyName,
  type Checkpoint,
  type ClipTimes,
  type Judgement,
  type Point,
  type Rep,
  type RepForm,
  type Review,
  type Schemas,
  type Technique,
  type Traces,
  type View,
} from '../api/client'
import { frameAt } from '../player/frames'
import { Player } from '../player/player.svelte'
import * as changes from './changes'
import type { Act, Spot } from './changes'
import { Corrections } from './corrections.svelte'
import { Live } from './live.svelte'
import { Saver } from './saver.svelte'
import { Zoom } from './zoom.svelte'

export type Tool = 'look' | 'points' | 'mark' | 'height' | 'collect'
export interface Place {
  x: number
  y: number
}

/** Everything that the bench shows and does. Rules and numbers come from the server; this asks and keeps. */
export class Bench {
  readonly player = new Player()
  readonly saver: Saver
  readonly live = new Live()
  /** Spots being collected for the frame of reference: how many are wanted, and what to do with them. */
  collect = $state<Collecting | null>(null)
  /** Picture pixels that a pixel of the screen covers: how coarsely a point can be placed. */
  grain = 1
  /** What the rep does over the mat, frame by frame; read while it is looked at. */
  ground = $state.raw<Schemas['GroundOut'][]>([])
  /** The mat is shown from above. */
  planShown = $state(false)
  /** How closely the coach marks, once a blind marking was compared. */
  scatter = $state.raw<Schemas['RepeatOut'] | null>(null)
  /** True while the coach writes why a verdict is overruled. */
  overruling = $state(false)
  review = $state.raw() as Review
  tool = $state<Tool>('look')
  repId = $state<string | null>(null)
  checkpointId = $state<string | null>(null)
  selected = $state<Spot | null>(null)
  pickedLandmark = $state<{ body: BodyName; landmark: string } | null>(null)
  dragging = $state<{ spot: Spot; place: Place } | null>(null)
  readonly corrections = new Corrections(this)
  heightFrom = $state<Place | null>(null)
  heightBody = $state<BodyName>('performer')
  draft = $state<RepForm>() as RepForm
  traces = $state.raw<Traces | null>(null)
  /** What the strand shows: null for the rep with a margin, else for the whole clip. */
  span = $state<Span | null>(null)
  /** The proposed cut that is being dragged, and where it is dragged to. */
  dragged = $state<{ index: number; cut: Cut } | null>(null)
  secondView = $state.raw<View | null>(null)
  readonly secondPlayer = new Player()
  readonly zoom = new Zoom()
  /** Opens the field for a frame number; set by the strand. */
  typeFrame: () => void = () => undefined
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
    this.draft = firstDraft(clip, review, library)
    this.secondView = clip.views.find((view) => view.frame != null) ?? null
    this.saver = new Saver(`lacertus.pending.${review.id}`, (answer, settled) => settled && this.#answered(answer), refused)
    this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
  }

  #answered(review: Review): void {
    this.review = review
    this.dragging = null
    this.live.rest()
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
  /** The current rep's judgements, as measured live while a point is dragged. */
  get judgements(): Judgement[] {
    const live = this.live.judgements
    return live && live.rep === this.repId ? live.found : (this.rep?.judgements ?? [])
  }
  get judgement(): Judgement | null {
    return this.judgements.find((j) => j.id === this.checkpointId) ?? null
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
    if (drag && drag.spot.frame === frame) points.push({ ...drag.spot, ...drag.place, hidden: false, by: 'placed', sigma: null, grain: null })
    return points
  }

  /** What the current checkpoint reads, in order, each with its point if it is placed. */
  get needs(): { spot: Spot | null; body: BodyName; landmark: string; point: Point | undefined }[] {
    const rep = this.rep
    if (!rep) return []
    return rep.needs
      .filter((need) => rep.blind_of || need.checkpoint === this.checkpointId)
      .map(({ body, landmark, frame }) => {
        const spot = frame == null ? null : { body, landmark, frame }
        return { spot, body, landmark, point: spot ? changes.findPoint(rep, spot) : undefined }
      })
  }

  /** The next landmark to place: the one picked, else the first that the checkpoint still lacks. */
  get asked(): Spot | null {
    if (this.pickedLandmark) return { ...this.pickedLandmark, frame: this.player.shown }
    const asked = this.needs.find((need) => need.spot && !need.point)?.spot
    if (asked || this.needs.some((need) => need.spot)) return asked ?? null
    return this.seeds.find((spot) => this.rep && !changes.findPoint(this.rep, spot)) ?? null
  }
  /** Before an event is marked any frame will do: what the technique reads, on the frame on screen, so that it can be followed. */
  get seeds(): Spot[] {
    const frame = this.player.shown
    const found = new Map((this.rep?.needs ?? []).map(({ body, landmark }) => [body + landmark, { body, landmark, frame }]))
    return [...found.values()]
  }

  get nextEvent(): string | null {
    const rep = this.rep
    return (rep && this.technique?.events.find((event) => !(event.key in rep.events))?.key) ?? null
  }

  /** Where the next event that is not marked seems to be. */
  get proposed(): Schemas['ProposedOut'] | null {
    return this.rep?.proposed.find((proposal) => proposal.event === this.nextEvent) ?? this.rep?.proposed[0] ?? null
  }

  get techniqueNamed(): boolean {
    return this.clip.naming.technique != null || this.review.reps.length > 0
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

  // --- the strand -------------------------------------------------------------------------------------

  /** First and last frame on the strand. */
  get strand(): Span {
    const last = Math.max(this.clip.pts_s.length - 1, 1)
    if (this.span) return this.span
    const rep = this.rep
    if (!rep) return { from: 0, to: last }
    const margin = Math.max(4, Math.round((rep.last_frame - rep.first_frame) * 0.08))
    return { from: Math.max(0, rep.first_frame - margin), to: Math.min(last, rep.last_frame + margin) }
  }

  /** Show `factor` times as many frames, the frame `about` staying where it is. */
  zoomStrand(factor: number, about = this.player.shown): void {
    const last = Math.max(this.clip.pts_s.length - 1, 1)
    const { from, to } = this.strand
    const length = Math.max(LEAST_SPAN, Math.min(last, (to - from) * factor))
    const share = to > from ? Math.max(0, Math.min(1, (about - from) / (to - from))) : 0.5
    const start = Math.max(0, Math.min(last - length, about - share * length))
    this.span = { from: Math.round(start), to: Math.round(start + length) }
  }

  /** Bring the frame on screen onto the strand. */
  follow(): void {
    const { span } = this
    const at = this.player.shown
    if (!span || (at >= span.from && at <= span.to)) return
    const last = Math.max(this.clip.pts_s.length - 1, 1)
    const length = span.to - span.from
    const from = Math.max(0, Math.min(last - length, Math.round(at - length / 2)))
    this.span = { from, to: from + length }
  }

  /** Go to the next or last thing marked: an event, a sound, the end of a rep or of a proposed cut. */
  jump(by: 1 | -1): void {
    const times = this.clip.pts_s
    const sounds = (this.traces?.onsets ?? []).map((onset) => frameAt(times, onset.time_s))
    const events = Object.values(this.rep?.events ?? {}).flat()
    const ends = [...this.review.reps.map((rep) => [rep.first_frame, rep.last_frame]), ...this.review.proposals.map((cut) => [cut.first, cut.last])].flat()
    const places = [...new Set([...sounds, ...events, ...ends])].sort((a, b) => a - b)
    const at = this.player.wanted
    const found = by > 0 ? places.find((place) => place > at) : places.findLast((place) => place < at)
    if (found !== undefined) this.player.go(found)
  }

  // --- proposed cuts ----------------------------------------------------------------------------------

  get proposals(): Cut[] {
    const { dragged } = this
    return this.review.proposals.map((cut, index) => (dragged?.index === index ? dragged.cut : cut))
  }

  /** The proposed cut under the frame on screen, else the next one, else the first. */
  get proposalHere(): number {
    const at = this.player.shown
    const all = this.review.proposals
    const under = all.findIndex((cut) => cut.first <= at && at <= cut.last)
    if (under >= 0) return under
    const next = all.findIndex((cut) => cut.first > at)
    return next >= 0 ? next : all.length - 1
  }

  /** Cut a rep where a cut is proposed. */
  acceptProposal(index = this.proposalHere): void {
    const cut = this.review.proposals[index]
    if (cut) this.#accept([index])
  }
  acceptAll(): void {
    if (this.review.proposals.length > 0) this.#accept(this.review.proposals.map((_, index) => index))
  }
  dropProposal(index = this.proposalHere): void {
    if (this.review.proposals[index]) this.#propose(this.review.proposals.filter((_, other) => other !== index))
  }
  moveProposal(index: number, cut: Cut): void {
    this.#propose(this.review.proposals.map((other, at) => (at === index ? cut : other)))
  }

  #propose(cuts: Cut[]): void {
    this.act(changes.setProposals(this.review.id, this.review.proposals, cuts))
  }
  #accept(indices: number[]): void {
    const taken = this.review.proposals.filter((_, index) => indices.includes(index)).map((cut) => ({ cut, id: newId() }))
    const left = this.review.proposals.filter((_, index) => !indices.includes(index))
    const draft = $state.snapshot(this.draft)
    const cutting = taken.map(({ cut, id }) => changes.cutRep(this.review.id, id, { ...draft, first_frame: cut.first, last_frame: cut.last }))
    this.act(changes.together('accept cuts', [...cutting, changes.setProposals(this.review.id, this.review.proposals, left)]))
    if (taken.length === 1) {
      this.repId = taken[0]?.id ?? null
      this.span = null
      this.checkpointId = this.technique?.checkpoints[0]?.id ?? null
    }
  }

  // --- reps -----------------------------------------------------------------------------------------

  choose(repId: string | null): void {
    this.repId = repId
    this.span = null
    this.selected = null
    this.overruling = false
    this.corrections.close()
    this.player.loop = null
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
  /** Mark the next event where it is proposed, and show that frame. */
  acceptProposedEvent(): void {
    const { rep, proposed } = this
    if (!rep || !proposed) return
    this.player.go(proposed.frame)
    this.act(changes.markEvent(rep, proposed.event, [proposed.frame]))
  }
  didNotHappen(event: string): void {
    const rep = this.rep
    if (!rep) return
    this.act(changes.markEvent(rep, event, rep.events[event]?.length === 0 ? null : []))
  }
  answer(yes: boolean): void {
    const rep = this.rep
    const here = this.checkpoint
    if (!rep || this.finished) return
    if (here?.by_eye) {
      const again = rep.answers[here.id] === yes
      this.act(changes.answer(rep, here.id, again ? null : yes))
      if (again) return
    }
    // On to the next question for the eye that has no answer yet.
    const all = this.technique?.checkpoints ?? []
    const open = all.filter((c) => c.by_eye && c.id !== here?.id && !(c.id in rep.answers) && rep.judgements.find((j) => j.id === c.id)?.verdict !== 'not_asked')
    const at = here?.by_eye ? all.indexOf(here) : -1
    // An answer that is being saved is not known yet: those after it come first.
    const next = open.find((c) => all.indexOf(c) > at) ?? open[0]
    if (next) this.chooseCheckpoint(next.id)
  }

  /** Give the current checkpoint another verdict, with the reason; null goes back to what was measured. */
  overrule(given: { verdict: changes.Verdict; reason: string } | null): void {
    if (this.rep && this.checkpointId) this.act(changes.overrule(this.rep, this.checkpointId, given))
    this.overruling = false
  }

  // --- checkpoints ----------------------------------------------------------------------------------

  chooseCheckpoint(id: string): void {
    this.checkpointId = id
    this.corrections.close()
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
    this.act(changes.placePoint(rep, spot, round(place.x), round(place.y), undefined, round(this.grain)))
  }
  nudge(dx: number, dy: number): void {
    const point = this.selected && this.rep ? changes.findPoint(this.rep, this.selected) : undefined
    const from = this.dragging && this.selected && same(this.dragging.spot, this.selected) ? this.dragging.place : point
    if (!from || !this.selected) return
    this.place(this.selected, { x: clamp(from.x + dx, this.clip.width), y: clamp(from.y + dy, this.clip.height) })
  }
  /** Say that the chosen point is a guess, as its joint is hidden, or that it is seen after all. */
  toggleHidden(): void {
    const { rep, selected } = this
    const point = selected && rep ? changes.findPoint(rep, selected) : undefined
    if (rep && point) this.act(changes.placePoint(rep, point, point.x, point.y, !point.hidden, point.grain))
  }
  /** Place what is asked for where it lies on the nearest frame that has it. */
  copyNear(): void {
    const { rep, asked } = this
    if (!rep || !asked) return
    const near = rep.points
      .filter((point) => point.body === asked.body && point.landmark === asked.landmark && point.frame !== asked.frame)
      .sort((a, b) => Math.abs(a.frame - asked.frame) - Math.abs(b.frame - asked.frame))[0]
    if (near) this.place(asked, near)
  }

  // --- carrying ---------------------------------------------------------------------------------------

  get carrying(): Schemas['CarryingOut'] | null {
    return this.rep?.carrying ?? null
  }
  /** Something is placed here, or another rep tells about where the bodies are. */
  get canCarry(): boolean {
    const { rep } = this
    if (!rep || this.finished || this.carryRuns || rep.blind_of) return false
    return rep.points.some((point) => point.by === 'placed') || this.reps.some((other) => other.id !== rep.id && other.student_id === rep.student_id && other.points.length > 0)
  }
  get carryRuns(): boolean {
    return this.carrying?.state === 'waiting' || this.carrying?.state === 'carrying'
  }
  /** Have the rep's placed points carried through it. */
  carry(): void {
    const rep = this.rep
    if (!rep || !this.canCarry) return
    this.saver.add([{ method: 'POST', path: `/reps/${rep.id}/carry`, body: { first: rep.first_frame, last: rep.last_frame } }])
  }
  /** Read the review anew, unless something is being saved: its answer brings the newest. */
  async refresh(): Promise<void> {
    if (this.saver.waiting.length > 0) return
    const found = await client.GET('/api/reviews/{review_id}', { params: { path: { review_id: this.review.id } } })
    if (found.data && this.saver.waiting.length === 0 && !this.dragging) this.review = found.data
  }
  dropCarried(): void {
    if (this.rep) this.saver.add([{ method: 'DELETE', path: `/reps/${this.rep.id}/carried` }])
  }

  // --- the frame of reference ---------------------------------------------------------------------------

  /** Ask for spots in the picture, one click each, and hand them over. */
  gather(asking: Collecting['asking'], done: Collecting['done']): void {
    this.player.pause()
    this.tool = 'collect'
    this.collect = { asking, spots: [], done }
  }
  collectSpot(place: Place): void {
    if (!this.collect) return
    const spots = [...this.collect.spots, { x: round(place.x), y: round(place.y) }]
    if (spots.length < this.collect.asking.length) return void (this.collect = { ...this.collect, spots })
    const { done } = this.collect
    this.dropTool()
    done(spots)
  }
  setReference(part: 'upright' | 'centimetres_per_pixel' | 'floor', value: unknown): void {
    this.act(changes.setReference(this.review, part, value))
  }
  /** The still frame that a body's lengths were read off. */
  stillFrame(body: BodyName): number | null {
    const lengths = this.review.reference.lengths_px as Record<string, Record<string, { frame: number | null }>> | undefined
    return Object.values(lengths?.[body] ?? {})[0]?.frame ?? null
  }
  readLengths(body: BodyName, frame: number | null): void {
    if (this.rep) this.act(changes.readLengths(this.rep, body, frame, this.stillFrame(body)))
  }

  removeSelected(): void {
    const point = this.selected && this.rep ? changes.findPoint(this.rep, this.selected) : undefined
    if (point && this.rep) this.act(changes.removePoint(this.rep, point))
    this.selected = null
  }

  // --- over the mat ---------------------------------------------------------------------------------------

  /** The plan is asked for, or the checkpoint reads balance or the mat. */
  get overMat(): boolean {
    return this.planShown || ['floor', 'balance'].includes(this.checkpoint?.kind ?? '')
  }
  async readGround(): Promise<void> {
    const { rep } = this
    if (!rep) return void (this.ground = [])
    const found = await client.GET('/api/reps/{rep_id}/ground', { params: { path: { rep_id: rep.id } } })
    if (found.data && rep.id === this.repId) this.ground = found.data
  }

  // --- marking again, blind ------------------------------------------------------------------------------

  /** The reps that are judged; one that is marked a second time is not among them. */
  get reps(): Rep[] {
    return this.review.reps.filter((rep) => !rep.blind_of)
  }
  /** Which rep this is, as the coach counts them. */
  numberOf(rep: Rep): number {
    return this.review.reps.findIndex((other) => other.id === (rep.blind_of ?? rep.id)) + 1
  }
  get canMarkAgain(): boolean {
    const { rep } = this
    return !this.finished && rep !== null && !rep.blind_of && (Object.keys(rep.events).length > 0 || rep.points.some((point) => point.by === 'placed'))
  }
  /** Begin to mark the current rep a second time, with nothing of the first time to be seen. */
  async markAgain(): Promise<void> {
    const { rep } = this
    if (!rep || !this.canMarkAgain || this.saver.waiting.length > 0) return
    try {
      this.review = await send({ method: 'POST', path: `/reps/${rep.id}/again` })
      this.scatter = null
      this.choose(this.review.reps.find((other) => other.blind_of === rep.id)?.id ?? rep.id)
    } catch (error) {
      this.saver.failure = error instanceof Error ? error.message : String(error)
    }
  }
  /** Compare the blind marking with the first one; the coach's own scatter is kept. */
  async compareMarkings(): Promise<void> {
    const { rep } = this
    if (!rep?.blind_of || this.saver.waiting.length > 0) return
    try {
      this.scatter = await unwrap(client.POST('/api/reps/{rep_id}/compare', { params: { path: { rep_id: rep.id } } }))
      await this.refresh()
    } catch (error) {
      this.saver.failure = error instanceof Error ? error.message : String(error)
    }
  }

  // --- what to fix first ----------------------------------------------------------------------------------

  /** True while the coach writes why the current checkpoint is to be fixed first. */
  choosing = $state(false)
  get canChoose(): boolean {
    const { rep, checkpointId } = this
    return !this.finished && rep !== null && !rep.blind_of && this.judgement?.counts_as_missed === true && !this.review.fix_first.some((fix) => fix.why != null && fix.checkpoint === checkpointId)
  }
  /** Have the current checkpoint fixed first; of what stood there the first stays second. */
  chooseFix(why: string): void {
    const { rep, checkpointId } = this
    if (!rep || !checkpointId) return
    const others = this.review.fix_first.filter((fix) => fix.checkpoint !== checkpointId || fix.technique !== rep.technique)
    const second = others[0] ? [{ technique: others[0].technique, checkpoint: others[0].checkpoint }] : []
    this.act(changes.chooseFixes(this.review, [{ technique: rep.technique, checkpoint: checkpointId }, ...second], why))
    this.choosing = false
  }
  asRecommended(): void {
    this.act(changes.chooseFixes(this.review, [], ''))
  }

  // --- height and tools ------------------------------------------------------------------------------

  markHeight(place: Place): void {
    if (!this.heightFrom) return void (this.heightFrom = place)
    const px = Math.hypot(place.x - this.heightFrom.x, place.y - this.heightFrom.y)
    this.act(changes.setHeight(this.review.id, this.heightBody, round(px), this.review.heights_px[this.heightBody]))
    this.dropTool()
  }
  take(tool: Tool): void {
    this.player.pause()
    this.tool = this.tool === tool ? 'look' : tool
    this.heightFrom = this.corrections.placing = null
    if (this.tool === 'points') this.goToReading()
  }
  dropTool(): void {
    this.tool = 'look'
    this.collect = null
    this.overruling = this.choosing = false
    this.live.rest()
    this.heightFrom = this.selected = this.pickedLandmark = null
    this.corrections.close()
  }
}

/** Spots asked for one after the other, what each is called, those given so far, and what happens with all. */
export interface Collecting {
  asking: readonly string[]
  spots: Place[]
  done: (spots: Place[]) => void
}
/** First and last frame of a proposed cut. */
export type Cut = Schemas['Stretch']
export interface Span {
  from: number
  to: number
}
const LEAST_SPAN = 8

export function same(a: Spot, b: Spot): boolean {
  return a.body === b.body && a.landmark === b.landmark && a.frame === b.frame
}

function round(value: number): number {
  return Math.round(value * 100) / 100
}

function clamp(value: number, most: number | null): number {
  return Math.max(0, Math.min(most ?? 0, value))
}

/** How the next rep will be cut: like the last one, else as the clip is named, else a plain attempt at the first technique. */
function firstDraft(clip: ClipTimes, review: Review, library: readonly Technique[]): RepForm {
  const { naming } = clip
  const last = review.reps.at(-1)
  const form = last ? changes.repForm(last) : null
  const plain: RepForm = {
    first_frame: -1, last_frame: -1, side: naming.side ?? 'right', technique: naming.technique ?? library[0]?.id ?? '',
    options: naming.options ?? {}, heading: 'right', view: naming.view ?? 'side', partner: naming.partner ?? 'person',
    pace: naming.pace ?? 'full', rung: naming.rung ?? null, purpose: 'attempt', student_id: null,
    outcome: null, start_at: null, end_at: null, resists_from: null, reaction: null, finish: null, stance: null, grade: null, linked_to: null,
  }
  return { ...plain, ...form, first_frame: -1, last_frame: -1 }
}
