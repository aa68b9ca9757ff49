export type Layout = 'corner' | 'beside' | 'hidden'
const LAYOUTS: readonly Layout[] = ['corner', 'beside', 'hidden']
/** How much of the picture's width the smaller view takes. */
export const SMALL = 0.38
const KEPT = 'lacertus.two-views'

interface Kept {
  layout: Layout
  swapped: boolean
  x: number
  y: number
}

/** How two views of a clip share the picture: which is large, where the small one lies. Kept between clips. */
export class TwoViews {
  layout = $state<Layout>('corner')
  /** The second view has the first one's place. */
  swapped = $state(false)
  /** Where the small view lies, as a share of the room that is left over, 0 to 1 from the left and from the top. */
  x = $state(1)
  y = $state(1)

  constructor(private readonly kept: Pick<Storage, 'getItem' | 'setItem'> = localStorage) {
    const found = read(kept.getItem(KEPT))
    if (found) {
      this.layout = found.layout
      this.swapped = found.swapped
      this.move(found.x, found.y)
    }
  }

  show(layout: Layout): void {
    this.layout = layout
    this.#keep()
  }
  /** Corner, beside, hidden, and corner again. */
  next(): void {
    this.show(LAYOUTS[(LAYOUTS.indexOf(this.layout) + 1) % LAYOUTS.length] ?? 'corner')
  }
  swap(): void {
    this.swapped = !this.swapped
    this.#keep()
  }
  /** Lay the small view somewhere else; what lies outside is brought in. */
  move(x: number, y: number): void {
    this.x = Math.max(0, Math.min(1, x))
    this.y = Math.max(0, Math.min(1, y))
  }
  /** The next corner, clockwise. */
  turn(): void {
    const [right, low] = [this.x > 0.5, this.y > 0.5]
    this.move(low ? 0 : 1, right ? 1 : 0)
    this.#keep()
  }
  drop(): void {
    this.#keep()
  }

  #keep(): void {
    const { layout, swapped, x, y } = this
    this.kept.setItem(KEPT, JSON.stringify({ layout, swapped, x, y } satisfies Kept))
  }
}

/** What was kept, where it can be read. */
function read(text: string | null): Kept | null {
  try {
    const found: unknown = JSON.parse(text ?? 'null')
    if (typeof found !== 'object' || found === null) return null
    const { layout, swapped, x, y } = found as Partial<Kept>
    const known = LAYOUTS.find((one) => one === layout)
    return known && typeof x === 'number' && typeof y === 'number'
      ? { layout: known, swapped: swapped === true, x, y }
      : null
  } catch {
    return null
  }
}
