import { describe, expect, it, vi } from 'vitest'
import { ApiError, type Change, type Schemas } from '../api/client'
import { Tally } from './tally.svelte'

type Round = Schemas['RoundOut']
type Tap = Schemas['Tap']

const nothing = { getItem: () => null, setItem: () => undefined, removeItem: () => undefined }
const tap = (key: string): Tap => ({ key, round: 1, at_s: 3, by: 'me', side: 'left', outcome: 'completed' })

/** A server that is slow to answer, and keeps taps in the order in which they come. */
function slowly() {
  const sent: string[] = []
  const waiting: (() => void)[] = []
  const transport = (change: Change) =>
    new Promise<Round>((answer) => {
      const { taps, undo } = change.body as { taps: Tap[]; undo: string[] }
      sent.push(...taps.map((one) => `+${one.key}`), ...undo.map((key) => `-${key}`))
      waiting.push(() => answer({} as Round))
    })
  return { sent, transport, answer: () => waiting.shift()?.() }
}

describe('tally', () => {
  it('sends one tap after the other, and shows those that wait', async () => {
    const server = slowly()
    const tally = new Tally('r', () => undefined, nothing, server.transport)
    tally.add(tap('a'))
    tally.add(tap('b'))
    expect(server.sent).toEqual(['+a'])
    expect(tally.with([]).map((one) => one.key)).toEqual(['a', 'b'])
    server.answer()
    await vi.waitFor(() => expect(server.sent).toEqual(['+a', '+b']))
    expect(tally.with([tap('a')]).map((one) => one.key)).toEqual(['a', 'b'])
  })

  it('takes the last tap back, also one that is still on its way', async () => {
    const server = slowly()
    const tally = new Tally('r', () => undefined, nothing, server.transport)
    tally.add(tap('a'))
    tally.add(tap('b'))
    tally.takeBack(tally.with([]))
    expect(tally.with([]).map((one) => one.key)).toEqual(['a'])
    server.answer()
    await vi.waitFor(() => expect(server.sent).toHaveLength(2))
    server.answer()
    await vi.waitFor(() => expect(server.sent).toEqual(['+a', '+b', '-b']))
  })

  it('tells that taps wait while the server is away', async () => {
    const away = () => Promise.reject(new ApiError('away', 0, 'offline'))
    const tally = new Tally('r', () => undefined, nothing, away, 1)
    tally.add(tap('a'))
    await vi.waitFor(() => expect(tally.words).toContain('Not saved yet: 1'))
    expect(tally.with([])).toHaveLength(1)
  })
})
