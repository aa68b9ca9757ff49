import type { BodyName, Schemas } from '../../api/client'
import * as changes from './changes'
import { rounded, type Desk, type Place } from './desk'

/** Spots asked for one after the other, what each is called, those given so far, and what happens with all. */
export interface Collecting {
  asking: readonly string[]
  spots: Place[]
  done: (spots: Place[]) => void
}

/** The frame of reference: where up is, the scale, the mat, the bodies' heights and lengths. */
export class Reference {
  /** Spots that are being collected: how many are wanted, and what to do with them. */
  collecting = $state<Collecting | null>(null)
  heightFrom = $state<Place | null>(null)
  heightBody = $state<BodyName>('performer')

  constructor(private readonly desk: Pick<Desk, 'review' | 'rep' | 'player' | 'tool' | 'act'> & { dropTool(): void }) {}

  /** Ask for spots in the picture, one click each, and hand them over. */
  gather(asking: Collecting['asking'], done: Collecting['done']): void {
    this.desk.player.pause()
    this.desk.tool = 'collect'
    this.collecting = { asking, spots: [], done }
  }
  collectSpot(place: Place): void {
    if (!this.collecting) return
    const spots = [...this.collecting.spots, { x: rounded(place.x), y: rounded(place.y) }]
    if (spots.length < this.collecting.asking.length) return void (this.collecting = { ...this.collecting, spots })
    const { done } = this.collecting
    this.desk.dropTool()
    done(spots)
  }
  set<Part extends keyof Schemas['ReferenceIn']>(part: Part, value: Schemas['ReferenceIn'][Part]): void {
    this.desk.act(changes.setReference(this.desk.review, part, value))
  }
  /** The still frame that a body's lengths were read off. */
  stillFrame(body: BodyName): number | null {
    return Object.values(this.desk.review.reference.lengths_px?.[body] ?? {})[0]?.frame ?? null
  }
  readLengths(body: BodyName, frame: number | null): void {
    const { rep } = this.desk
    if (rep) this.desk.act(changes.readLengths(rep, body, frame, this.stillFrame(body)))
  }
  /** Heights that can be taken over in place of one that is marked, each as a button. */
  otherHeights(body: BodyName): { does: string; run: () => void }[] {
    const { review } = this.desk
    return review.heights_offered
      .filter((one) => one.body === body)
      .map(({ px, words }) => ({
        does: words,
        run: () => this.desk.act(changes.setHeight(review.id, body, rounded(px), review.heights_px[body])),
      }))
  }
  /** Crown first, then sole: the distance is the body's standing height. */
  markHeight(place: Place): void {
    if (!this.heightFrom) return void (this.heightFrom = place)
    const px = Math.hypot(place.x - this.heightFrom.x, place.y - this.heightFrom.y)
    const { review } = this.desk
    this.desk.act(changes.setHeight(review.id, this.heightBody, rounded(px), review.heights_px[this.heightBody]))
    this.desk.dropTool()
  }
}
