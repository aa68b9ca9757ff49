import { describe, expect, it } from 'vitest'
import { Live, type Wire } from './live.svelte'

class Line implements Wire {
  readyState = 0
  sent: { turn: number; x: number; fresh: boolean }[] = []
  onopen: (() => void) | null = null
  onmessage: ((event: { data: string }) => void) | null = null
  onclose: (() => void) | null = null
  send(text: string): void {
    this.sent.push(JSON.parse(text) as { turn: number; x: number; fresh: boolean })
  }
  close(): void {
    this.readyState = 3
    this.onclose?.()
  }
  open(): void {
    this.readyState = 1
    this.onopen?.()
  }
  answer(turn: number, value: number): void {
    this.onmessage?.({ data: JSON.stringify({ turn, judgements: [{ id: 'straight', value }], message: null }) })
  }
}

const SPOT = { body: 'performer' as const, landmark: 'left_knee', frame: 4 }

function started(): { live: Live; line: Line } {
  const line = new Line()
  const live = new Live(() => line)
  live.ask('rep', SPOT, 1, 1)
  line.open()
  return { live, line }
}

describe('Live', () => {
  it('asks once the line is open, and of the places that come meanwhile only the last', () => {
    const { live, line } = started()
    expect(line.sent.map((message) => message.x)).toEqual([1])
    live.ask('rep', SPOT, 2, 2)
    live.ask('rep', SPOT, 3, 3)
    expect(line.sent).toHaveLength(1)
    line.answer(1, 10)
    expect(line.sent.map((message) => message.x)).toEqual([1, 3])
    expect(line.sent.map((message) => message.fresh)).toEqual([true, false])
    line.answer(2, 30)
    expect(live.judgements?.found[0]?.value).toBe(30)
  })

  it('puts away what comes after the drag is over, and reads the rep anew next time', () => {
    const { live, line } = started()
    live.rest()
    line.answer(1, 10)
    expect(live.judgements).toBeNull()
    live.ask('rep', SPOT, 4, 4)
    expect(line.sent.at(-1)?.fresh).toBe(true)
  })

  it('opens a new line when the last one was cut', () => {
    const { live, line } = started()
    line.close()
    live.ask('rep', SPOT, 5, 5)
    line.open()
    expect(line.sent.at(-1)?.x).toBe(5)
  })
})
