import { describe, expect, it, vi } from 'vitest'
import { ApiError, type Change, type Review } from '../../api/client'
import { Saver } from './saver.svelte'

class Memory {
  held = new Map<string, string>()
  getItem = (key: string) => this.held.get(key) ?? null
  setItem = (key: string, value: string) => void this.held.set(key, value)
  removeItem = (key: string) => void this.held.delete(key)
}

const change = (path: string): Change => ({ method: 'PUT', path })
const review = { id: 'r' } as Review

describe('saver', () => {
  it('sends changes in the order they were made and keeps none', async () => {
    const memory = new Memory()
    const sent: string[] = []
    const saver = new Saver(
      'k',
      () => undefined,
      () => undefined,
      memory,
      async (c) => (sent.push(c.path), review),
    )
    saver.add([change('/a'), change('/b')])
    saver.add([change('/c')])
    await vi.waitFor(() => expect(saver.waiting).toHaveLength(0))
    expect(sent).toEqual(['/a', '/b', '/c'])
    expect(memory.held.size).toBe(0)
  })

  it('keeps what could not be sent, says so, and sends it when the server is back', async () => {
    const memory = new Memory()
    let down = true
    const transport = async () => {
      if (down) throw new ApiError('away', 0, 'offline')
      return review
    }
    const saver = new Saver(
      'k',
      () => undefined,
      () => undefined,
      memory,
      transport,
      1,
    )
    saver.add([change('/a')])
    await vi.waitFor(() => expect(saver.words).toContain('Not saved yet: 1'))
    expect(memory.held.get('k')).toContain('/a')
    down = false
    await vi.waitFor(() => expect(saver.words).toContain('All saved'))
  })

  it('sends what an earlier page kept', async () => {
    const memory = new Memory()
    memory.setItem('k', JSON.stringify([change('/left')]))
    const sent: string[] = []
    new Saver(
      'k',
      () => undefined,
      () => undefined,
      memory,
      async (c) => (sent.push(c.path), review),
    )
    await vi.waitFor(() => expect(sent).toEqual(['/left']))
  })

  it('drops what the server refuses, and shows its words', async () => {
    const refused = vi.fn()
    const transport = async () => {
      throw new ApiError('frame 900 is not in the clip', 400, 'bad_input')
    }
    const saver = new Saver('k', () => undefined, refused, new Memory(), transport)
    saver.add([change('/bad')])
    await vi.waitFor(() => expect(refused).toHaveBeenCalledOnce())
    expect(saver.failure).toBe('frame 900 is not in the clip')
    expect(saver.waiting).toHaveLength(0)
  })

  it('starts empty where what was kept cannot be read', () => {
    const memory = new Memory()
    memory.setItem('k', '{broken')
    expect(
      new Saver(
        'k',
        () => undefined,
        () => undefined,
        memory,
      ).waiting,
    ).toEqual([])
  })
})
