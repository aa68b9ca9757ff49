import { afterEach, describe, expect, it, vi } from 'vitest'
import { filled, sendOf } from './held'
import { point, rep, review } from './making'

const before = review({
  reps: [
    rep('one', { points_version: 'a', points: [point('nose', 3)] }),
    rep('two', { points_version: 'b', points: [point('chin', 4)] }),
  ],
})

afterEach(() => vi.unstubAllGlobals())

describe('points that are on the screen', () => {
  it('are put back into an answer that left them out, by their version', () => {
    const answer = review({
      reps: [
        rep('one', { points_version: 'a', points_held: true, points: [] }),
        rep('two', { points_version: 'c', points: [point('chin', 5)] }),
      ],
    })
    expect(filled(answer, before).reps.map((one) => one.points)).toEqual([[point('nose', 3)], [point('chin', 5)]])
  })
  it('are told to the server with a change', async () => {
    const asked = vi.fn(() => Promise.resolve(new Response(JSON.stringify(before))))
    vi.stubGlobal('fetch', asked)
    vi.stubGlobal('sessionStorage', { getItem: () => 'window' })
    await sendOf(before, { method: 'PUT', path: '/reps/one/events/knee_top', body: { frames: [3] } })
    expect(asked).toHaveBeenCalledWith(
      '/api/reps/one/events/knee_top',
      expect.objectContaining({ headers: expect.objectContaining({ 'X-Points': 'a,b' }) }),
    )
  })
})
