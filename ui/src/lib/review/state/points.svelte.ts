import type { BodyName, Point } from '../../api/client'
import * as changes from './changes'
import type { Spot } from './changes'
import { rounded, type Desk, type Place } from './desk'

export interface Needed {
  spot: Spot | null
  body: BodyName
  landmark: string
  point: Point | undefined
}

/** How far a key steers the cross, pixels of the screen; a fifth of it with Shift. */
const CROSS_STEP = 10

/** Points of the current rep: which are wanted, which is chosen, placing and moving them. */
export class Points {
  selected = $state<Spot | null>(null)
  /** A landmark that the coach chose to place, whatever is asked for. */
  picked = $state<{ body: BodyName; landmark: string } | null>(null)
  dragging = $state<{ spot: Spot; place: Place } | null>(null)
  /** Where a landmark would be placed by keys; null while the pointer places. */
  cross = $state<Place | null>(null)
  /** Picture pixels that a pixel of the screen covers: how coarsely a point can be placed. */
  grain = 1

  /** One landmark was asked for by itself: once it is placed, nothing more is. */
  #alone: { body: BodyName; landmark: string } | null = null

  constructor(
    private readonly desk: Pick<Desk, 'clip' | 'rep' | 'checkpointId' | 'player' | 'act'> & { dropTool?(): void },
  ) {}

  /** Ask for one landmark on the frame on screen, and for nothing after it. */
  askAlone(body: BodyName, landmark: string): void {
    this.picked = { body, landmark }
    this.#alone = { body, landmark }
  }

  /** Points on the frame on screen, a dragged one where it is dragged to. */
  get shown(): Point[] {
    const frame = this.desk.player.shown
    const drag = this.dragging
    const points = (this.desk.rep?.points ?? []).filter(
      (point) => point.frame === frame && !(drag && same(drag.spot, point)),
    )
    if (drag && drag.spot.frame === frame)
      points.push({ ...drag.spot, ...drag.place, hidden: false, by: 'placed', sigma: null, grain: null })
    return points
  }

  /** What the current checkpoint reads, in order, each with its point if it is placed. */
  get needs(): Needed[] {
    const { rep, checkpointId } = this.desk
    if (!rep) return []
    return rep.needs
      .filter((need) => rep.blind_of || need.checkpoint === checkpointId)
      .map(({ body, landmark, frame }) => {
        const spot = frame == null ? null : { body, landmark, frame }
        return { spot, body, landmark, point: spot ? changes.findPoint(rep, spot) : undefined }
      })
  }

  /** The next landmark to place: the one picked, else the first that the checkpoint still lacks. */
  get asked(): Spot | null {
    const { rep, player } = this.desk
    if (this.picked) return { ...this.picked, frame: player.shown }
    const asked = this.needs.find((need) => need.spot && !need.point)?.spot
    if (asked || this.needs.some((need) => need.spot)) return asked ?? null
    return this.seeds.find((spot) => rep && !changes.findPoint(rep, spot)) ?? null
  }

  /** Before an event is marked any frame will do: what the technique reads, on the frame on screen, so that it
   * can be tracked. */
  get seeds(): Spot[] {
    const frame = this.desk.player.shown
    const found = new Map(
      (this.desk.rep?.needs ?? []).map(({ body, landmark }) => [body + landmark, { body, landmark, frame }]),
    )
    return [...found.values()]
  }

  get #chosen(): Point | undefined {
    const { rep } = this.desk
    return this.selected && rep ? changes.findPoint(rep, this.selected) : undefined
  }

  place(spot: Spot, place: Place): void {
    const { rep } = this.desk
    if (!rep) return
    this.dragging = { spot, place }
    this.selected = spot
    const alone = this.#alone?.landmark === spot.landmark && this.#alone.body === spot.body
    this.desk.act(changes.placePoint(rep, spot, rounded(place.x), rounded(place.y), undefined, rounded(this.grain)))
    if (alone) this.desk.dropTool?.()
  }

  /** Nothing is chosen, picked or asked for by itself any more. */
  rest(): void {
    this.selected = this.picked = this.cross = this.#alone = null
  }

  /** Steer by keys to where what is asked for is placed: from where it lies in the nearest frame, else from the middle. */
  showCross(): void {
    const { width, height } = this.desk.clip
    const near = this.#nearest
    this.cross = near ? { x: near.x, y: near.y } : { x: (width ?? 0) / 2, y: (height ?? 0) / 2 }
  }
  placeCross(): void {
    const { asked, cross } = this
    if (!asked || !cross || asked.frame !== this.desk.player.shown) return
    this.place(asked, cross)
    this.picked = null
  }

  nudge(dx: number, dy: number): void {
    const { width: wide, height: high } = this.desk.clip
    if (this.cross) {
      const step = CROSS_STEP * this.grain
      const { x, y } = this.cross
      this.cross = { x: clamp(x + dx * step, wide), y: clamp(y + dy * step, high) }
      return
    }
    const { selected, dragging } = this
    const from = dragging && selected && same(dragging.spot, selected) ? dragging.place : this.#chosen
    if (!from || !selected) return
    const { width, height } = this.desk.clip
    this.place(selected, { x: clamp(from.x + dx, width), y: clamp(from.y + dy, height) })
  }

  /** Say that the chosen point is a guess, as its joint is hidden, or that it is seen after all. */
  toggleHidden(): void {
    const { rep } = this.desk
    const point = this.#chosen
    if (rep && point) this.desk.act(changes.placePoint(rep, point, point.x, point.y, !point.hidden, point.grain))
  }

  /** Place what is asked for where it lies on the nearest frame that has it. */
  copyNear(): void {
    const { asked } = this
    const near = this.#nearest
    if (asked && near) this.place(asked, near)
  }
  /** What is asked for, where it lies on the nearest other frame. */
  get #nearest(): Point | undefined {
    const { asked } = this
    if (!asked) return undefined
    return (this.desk.rep?.points ?? [])
      .filter((point) => point.body === asked.body && point.landmark === asked.landmark && point.frame !== asked.frame)
      .sort((a, b) => Math.abs(a.frame - asked.frame) - Math.abs(b.frame - asked.frame))[0]
  }

  removeSelected(): void {
    const { rep } = this.desk
    const point = this.#chosen
    if (point && rep) this.desk.act(changes.removePoint(rep, point))
    this.selected = null
  }
}

export function same(a: Spot, b: Spot): boolean {
  return a.body === b.body && a.landmark === b.landmark && a.frame === b.frame
}

function clamp(value: number, most: number | null): number {
  return Math.max(0, Math.min(most ?? 0, value))
}
