import type { Judgement } from '../../api/client'
import type { Spot } from './changes'

/** What the server answers: `message` says what is wrong. */
interface Answer {
  turn: number | null
  judgements: Judgement[]
  message: string | null
}
/** What a socket must be able to do; a browser's WebSocket is one. */
export type Wire = Pick<WebSocket, 'readyState' | 'send' | 'close' | 'onopen' | 'onmessage' | 'onclose'>
const OPEN = 1

/**
 * Asks the server what a dragged point would be judged as, over a WebSocket. One question is under way at a time, and of
 * those that come meanwhile only the last is asked: the picture never lags behind.
 */
export class Live {
  /** The judgements of `rep` as if the point lay where it is dragged to; null while nothing is dragged. */
  judgements = $state.raw<{ rep: string; found: Judgement[] } | null>(null)
  #wire: Wire | null = null
  #turn = 0
  #underWay: { turn: number; rep: string } | null = null
  #next: { rep: string; spot: Spot; x: number; y: number } | null = null
  #fresh = true

  constructor(private readonly connect: () => Wire = () => new WebSocket(address())) {}

  ask(rep: string, spot: Spot, x: number, y: number): void {
    this.#next = { rep, spot, x, y }
    this.#send()
  }

  /** The drag is over, or the rep has changed: what was measured is put away, and the rep is read anew next time. */
  rest(): void {
    this.judgements = null
    this.#next = null
    this.#fresh = true
    this.#turn++
  }

  close(): void {
    this.#wire?.close()
    this.#wire = null
  }

  #send(): void {
    const wire = (this.#wire ??= this.#open())
    if (wire.readyState !== OPEN || this.#underWay || !this.#next) return
    const { rep, spot, x, y } = this.#next
    this.#next = null
    this.#underWay = { turn: ++this.#turn, rep }
    wire.send(
      JSON.stringify({
        rep,
        body: spot.body,
        landmark: spot.landmark,
        frame: spot.frame,
        x,
        y,
        turn: this.#turn,
        fresh: this.#fresh,
      }),
    )
    this.#fresh = false
  }

  #open(): Wire {
    const wire = this.connect()
    wire.onopen = () => this.#send()
    wire.onmessage = (event) => this.#answered(JSON.parse(event.data) as Answer)
    // Measuring while dragging is a convenience: when the line is cut, the number comes with the saved point.
    wire.onclose = () => {
      this.#wire = this.#underWay = null
      this.#fresh = true
    }
    return wire
  }

  #answered(answer: Answer): void {
    const asked = this.#underWay
    this.#underWay = null
    if (asked && answer.turn === this.#turn && answer.message == null)
      this.judgements = { rep: asked.rep, found: answer.judgements }
    this.#send()
  }
}

function address(): string {
  return `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/api/live`
}
