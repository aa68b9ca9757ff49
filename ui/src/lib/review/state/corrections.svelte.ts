import { client, newId, send, unwrap, type Correction, type Point, type Rep, type Schemas } from '../../api/client'
import type { Desk, Place } from './desk'
import * as changes from './changes'

export type Mark = Schemas['Mark']
export type MarkKind = Mark['kind']
export type MarkSpot = Schemas['Spot']
type Stretch = Schemas['DrawnStretchOut']

/** Every kind of mark: what it is called, and what is clicked for it, in order. */
export const KINDS: Record<MarkKind, { name: string; asking: readonly string[] }> = {
  force: { name: 'push or pull', asking: ['where it starts', 'where it is to go'] },
  line: { name: 'line of the body', asking: ['one end of the line', 'the middle of it', 'the other end'] },
  angle: { name: 'wanted angle', asking: ['the end of one limb', 'the joint', 'the end of the other limb'] },
  weight: { name: 'weight over base', asking: ['the middle of the body', 'one foot', 'the other foot'] },
  path: { name: 'way to take', asking: ['the point that goes the way'] },
  space: { name: 'space to close', asking: ['one side of the space', 'the other side'] },
  look: { name: 'look here', asking: ['the place to look at'] },
  words: { name: 'words', asking: ['where the words stand'] },
  freehand: { name: 'line by hand', asking: ['where the line begins, and draw it'] },
}

/** What corrections need of the bench. */
interface CorrectingDesk extends Desk {
  readonly reps: readonly Rep[]
  readonly points: { readonly shown: readonly Point[] }
  numberOf(rep: Rep): number
  goToReading(): void
  dropTool(): void
}

/** The corrections of a bench: one is open at a time, with its marks, words, picture beside it and voice. */
export class Corrections {
  /** The one that is open for changing. */
  openId = $state<string | null>(null)
  /** The kind of mark that is being placed, and the places clicked so far. */
  placing = $state<{ kind: MarkKind; spots: Place[] } | null>(null)
  /** A spot that is being dragged. */
  moving = $state<{ mark: number; spot: number; place: Place } | null>(null)
  /** A voice note is to be recorded as soon as the correction is there. */
  speaking = $state(false)
  drawn = $state.raw<Record<string, Stretch[]>>({})
  choices = $state.raw<Schemas['ExampleChoiceOut'][]>([])
  /** Words for it: the coach’s own before, then the technique’s. */
  phrases = $state.raw<string[]>([])

  constructor(readonly bench: CorrectingDesk) {}

  get open(): Correction | null {
    return this.bench.review.corrections.find((one) => one.id === this.openId) ?? null
  }
  /** The corrections of the rep on the bench. */
  get ofRep(): Correction[] {
    return this.bench.review.corrections.filter((one) => one.rep_id === this.bench.repId)
  }
  /** The current checkpoint was missed, so that there is something to correct. */
  get can(): boolean {
    return !this.bench.finished && (this.bench.judgement?.counts_as_missed ?? false)
  }
  /** What is drawn on the frame on screen, the open one last. */
  get shown(): { correction: Correction; shapes: Stretch['shapes'] }[] {
    const frame = this.bench.player.shown
    const found = this.ofRep.flatMap((correction) => {
      const here = this.drawn[correction.id]?.find((one) => one.first <= frame && frame <= one.last)
      return here ? [{ correction, shapes: here.shapes }] : []
    })
    return found.sort((a, b) => Number(a.correction.id === this.openId) - Number(b.correction.id === this.openId))
  }

  async read(): Promise<void> {
    const { rep } = this.bench
    if (!rep || this.ofRep.length === 0) return void (this.drawn = {})
    const found = await client.GET('/api/reps/{rep_id}/drawn', { params: { path: { rep_id: rep.id } } })
    if (found.data && rep.id === this.bench.repId)
      this.drawn = Object.fromEntries(found.data.map((one) => [one.id, one.stretches]))
  }

  /** Make the default correction of the current checkpoint, or open the one that is there. */
  drawDefault(): void {
    const { rep, checkpoint } = this.bench
    if (this.openId) return this.close()
    if (!rep || !checkpoint || !this.can) return
    const there = this.ofRep.find((one) => one.checkpoint === checkpoint.id)
    const id = there?.id ?? newId()
    if (there) this.bench.player.go(there.frame)
    else {
      this.bench.act(changes.drawDefault(rep.id, id, checkpoint.id))
      this.bench.goToReading()
    }
    this.show(id)
  }
  /** Speak over the current checkpoint: its correction is made where there is none, and the recording begins. */
  speak(): void {
    this.#ready()
    this.speaking = this.openId !== null
  }
  /** Draw a line by hand over the frame on screen, on the correction of the current checkpoint. */
  drawByHand(): void {
    this.#ready()
    if (this.openId) this.place('freehand')
  }
  /** The correction of the current checkpoint is open, made where there is none. */
  #ready(): void {
    if (!this.openId) this.drawDefault()
  }
  show(id: string): void {
    this.bench.dropTool()
    this.openId = id
    this.choices = []
    this.phrases = []
    void this.#readChoices(id)
  }
  close(): void {
    this.openId = this.placing = this.moving = null
    this.speaking = false
    if (this.bench.tool === 'mark') this.bench.tool = 'look'
  }

  change(form: Partial<changes.CorrectionForm>): void {
    if (this.open) this.bench.act(changes.changeCorrection(this.open, form))
  }
  remove(): void {
    if (this.open) this.bench.act(changes.deleteCorrection(this.open))
    this.close()
  }
  /** Show it from, or up to, the frame on screen; or stop there. */
  frames(which: 'first_frame' | 'last_frame' | 'frame'): void {
    const { open } = this
    if (!open) return
    const at = this.bench.player.shown
    const next = { frame: open.frame, first_frame: open.first_frame, last_frame: open.last_frame, [which]: at }
    next.first_frame = Math.min(next.first_frame, next.frame)
    next.last_frame = Math.max(next.last_frame, next.frame)
    this.change(next)
  }

  // --- marks ----------------------------------------------------------------------------------------

  place(kind: MarkKind): void {
    this.bench.player.pause()
    this.bench.tool = 'mark'
    this.placing = { kind, spots: [] }
  }
  spot(at: Place): void {
    const { placing, open } = this
    if (!placing || !open) return
    const spots = [...placing.spots, at]
    if (spots.length < KINDS[placing.kind].asking.length) return void (this.placing = { ...placing, spots })
    const words = placing.kind === 'words' ? open.cue : ''
    const mark: Mark = { kind: placing.kind, spots: spots.map(fixed), wanted: null, words }
    this.placing = null
    this.bench.tool = 'look'
    this.change({ marks: [...open.marks, mark] })
  }
  /** The hand moves on: another place of the line that is being drawn. */
  trace(at: Place, apart: number): void {
    const { placing } = this
    if (placing?.kind !== 'freehand') return
    const last = placing.spots.at(-1)
    if (last && Math.hypot(last.x - at.x, last.y - at.y) < apart) return
    this.placing = { ...placing, spots: [...placing.spots, at] }
  }
  /** The line is drawn: it goes onto the correction. */
  endTrace(): void {
    const { placing, open } = this
    if (placing?.kind !== 'freehand' || placing.spots.length === 0) return
    this.placing = null
    this.bench.tool = 'look'
    const spots = thinned(placing.spots, MOST_TRACED).map(fixed)
    if (open && spots.length > 1)
      this.change({ marks: [...open.marks, { kind: 'freehand', spots, wanted: null, words: '' }] })
  }
  setMark(index: number, change: Partial<Mark> | null): void {
    const { open } = this
    if (!open) return
    this.change({
      marks: open.marks.flatMap((mark, at) =>
        at !== index ? [mark] : change === null ? [] : [{ ...mark, ...change }],
      ),
    })
  }
  /** Where the spots of the open correction lie on the frame on screen, as far as they are placed. */
  get handles(): Handle[] {
    const { open, moving } = this
    if (!open || this.bench.finished) return []
    return open.marks.flatMap((mark, m) =>
      // A line by hand has no corners to drag: it is drawn anew.
      (mark.kind === 'freehand' ? [] : mark.spots).flatMap((spot, s): Handle[] => {
        if (moving?.mark === m && moving.spot === s) return [{ mark: m, spot: s, ...moving.place, held: true }]
        const at = this.#placeOf(spot)
        return at ? [{ mark: m, spot: s, ...at, held: false }] : []
      }),
    )
  }
  #placeOf(spot: MarkSpot): Place | null {
    if (spot.x != null && spot.y != null) return { x: spot.x, y: spot.y }
    const point = this.bench.points.shown.find((one) => one.body === spot.body && one.landmark === spot.landmark)
    return point ? { x: point.x + spot.dx, y: point.y + spot.dy } : null
  }
  drop(): void {
    const { moving, open } = this
    this.moving = null
    const mark = moving && open?.marks[moving.mark]
    if (mark)
      this.setMark(moving.mark, {
        spots: mark.spots.map((spot, at) => (at === moving.spot ? fixed(moving.place) : spot)),
      })
  }

  // --- other reps, the picture beside, the voice --------------------------------------------------------

  /** Other reps in which the same was missed, and that have no such correction yet. */
  get alike(): { id: string; number: number }[] {
    const { open, bench } = this
    if (!open) return []
    return bench.reps
      .filter(
        (rep) =>
          rep.id !== open.rep_id && rep.judgements.some((one) => one.id === open.checkpoint && one.counts_as_missed),
      )
      .filter(
        (rep) => !bench.review.corrections.some((one) => one.rep_id === rep.id && one.checkpoint === open.checkpoint),
      )
      .map((rep) => ({ id: rep.id, number: bench.numberOf(rep) }))
  }
  copy(): void {
    if (this.open && this.alike.length)
      this.bench.act(
        changes.copyCorrection(
          this.open,
          this.alike.map((rep) => ({ rep: rep.id, id: newId() })),
        ),
      )
  }
  async #readChoices(id: string): Promise<void> {
    // A correction that is being made is known a moment later.
    for (let tries = 0; tries < 20 && this.openId === id; tries++) {
      const found = await client.GET('/api/corrections/{correction_id}/example', {
        params: { path: { correction_id: id } },
      })
      if (found.data && this.openId === id) {
        this.choices = found.data
        return this.#readPhrases(id)
      }
      await new Promise((done) => setTimeout(done, 250))
    }
  }
  async #readPhrases(id: string): Promise<void> {
    const found = await client.GET('/api/corrections/{correction_id}/phrases', {
      params: { path: { correction_id: id } },
    })
    if (found.data && this.openId === id) this.phrases = found.data
  }
  example(source: Schemas['ExampleIn']['source']): void {
    if (this.open) this.bench.act(changes.putExample(this.open, source))
  }
  async keepVoice(sound: Blob, seconds: number): Promise<void> {
    const { open, bench } = this
    if (!open) return
    const asked = fetch(`/api/corrections/${open.id}/voice`, {
      method: 'PUT',
      body: sound,
      headers: { 'Content-Type': 'application/octet-stream', 'X-Seconds': seconds.toFixed(2) },
    })
    const answer = asked.then(async (response) => {
      const data: unknown = await response.json().catch(() => undefined)
      return response.ok ? { data: data as typeof bench.review, response } : { error: data, response }
    })
    bench.review = await unwrap(answer)
  }
  async dropVoice(): Promise<void> {
    if (this.open) this.bench.review = await send(changes.dropVoice(this.open))
  }
}

/** So many places of a line that was drawn by hand are kept; the server keeps no more. */
const MOST_TRACED = 60

/** At most so many of the places, the first and the last among them, evenly chosen. */
export function thinned(spots: readonly Place[], most: number): Place[] {
  if (spots.length <= most) return [...spots]
  const step = (spots.length - 1) / (most - 1)
  return Array.from({ length: most }, (_, i) => spots[Math.round(i * step)] as Place)
}

interface Handle extends Place {
  mark: number
  spot: number
  held: boolean
}

function fixed(at: Place): MarkSpot {
  return { body: null, landmark: null, dx: 0, dy: 0, x: Math.round(at.x * 10) / 10, y: Math.round(at.y * 10) / 10 }
}
