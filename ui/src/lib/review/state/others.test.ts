import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { client } from '../../api/client'
import type { Wire } from './live.svelte'
import { review } from './making'
import { Others } from './others.svelte'

const wire = (readyState = 1): Wire => ({
  readyState,
  send: () => undefined,
  close: vi.fn(),
  onopen: null,
  onmessage: null,
  onclose: null,
})
const says = (from: Wire, newest: object): void => {
  from.onmessage?.call(from as WebSocket, new MessageEvent('message', { data: JSON.stringify(newest) }))
}

class Desk {
  review = review({ id: 'r', revision: 3 })
  saving = false
  refresh = vi.fn(() => {
    this.review = { ...this.review, revision: 4 }
    return Promise.resolve()
  })
  tell = vi.fn()
}

describe('what others change', () => {
  beforeEach(() => {
    vi.stubGlobal('document', { hidden: false })
    vi.stubGlobal('sessionStorage', { getItem: () => 'mine' })
  })
  afterEach(() => vi.unstubAllGlobals())

  it('is shown as soon as the server tells it, with who it was', async () => {
    const desk = new Desk()
    const line = wire()
    const others = new Others(desk, () => line)
    const end = others.watch()
    says(line, { revision: 4, by: 'Another Coach' })
    await vi.waitFor(() => expect(others.told).toBe('Another Coach'))
    expect(desk.refresh).toHaveBeenCalledOnce()
    end()
    expect(line.close).toHaveBeenCalled()
  })
  it('is left alone where it is on the screen already', async () => {
    const desk = new Desk()
    const line = wire()
    const others = new Others(desk, () => line)
    others.watch()()
    says(line, { revision: 3, by: null })
    await others.look()
    expect(desk.refresh).not.toHaveBeenCalled()
  })
  it('waits while something is being saved, and comes afterwards', async () => {
    const desk = new Desk()
    const line = wire()
    const others = new Others(desk, () => line)
    const end = others.watch()
    desk.saving = true
    says(line, { revision: 4, by: 'Another Coach' })
    await others.look()
    expect(desk.refresh).not.toHaveBeenCalled()
    desk.saving = false
    await others.look()
    expect(desk.refresh).toHaveBeenCalledOnce()
    end()
  })
  it('is asked for where there is no line, and the line is tried again after a while', async () => {
    const desk = new Desk()
    let time = 0
    const lines = [wire(3), wire(1)]
    const connect = vi.fn(() => lines.shift() ?? wire())
    const data = { revision: 4, by: null }
    vi.spyOn(client, 'GET').mockResolvedValue({ data, response: new Response() } as never)
    const others = new Others(desk, connect, () => time)
    const end = others.watch()
    await others.look()
    expect([desk.refresh.mock.calls.length, connect.mock.calls.length]).toEqual([1, 1])
    time = 10_001
    await others.look()
    expect(connect).toHaveBeenCalledTimes(2)
    end()
  })
})
