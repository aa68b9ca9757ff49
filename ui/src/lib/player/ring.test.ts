import { describe, expect, it, vi } from 'vitest'
import { FrameRing, type Decode, type Picture } from './ring'
import { frameAt } from './frames'

const pts = Array.from({ length: 200 }, (_, frame) => frame / 50)
/** A film whose every picture says which frame it is, decoded from the keyframe before. */
function film() {
  const asked: [number, number][] = []
  const decode: Decode = async function* (from, to) {
    asked.push([from, to])
    for (const [frame, timestamp] of pts.entries())
      if (timestamp >= from && timestamp < to)
        yield { picture: { width: frame, height: 1, close: () => undefined } as Picture, timestamp }
  }
  return { decode, asked }
}
const settled = (ring: FrameRing, frame: number) => vi.waitFor(() => expect(ring.get(frame)).toBeDefined())

describe('pictures decoded beforehand', () => {
  it('lie around the frame asked for, each of its own frame', async () => {
    const ring = new FrameRing(pts, 40, film().decode, () => undefined)
    ring.centre(50)
    await settled(ring, 36)
    for (let frame = 36; frame < 72; frame++) expect(ring.get(frame)?.width).toBe(frame)
    expect(ring.get(20)).toBeUndefined()
  })

  it('lie ahead in the direction of stepping, and no more are kept than there is room for', async () => {
    const ring = new FrameRing(pts, 40, film().decode, () => undefined)
    ring.centre(150)
    await settled(ring, 167)
    ring.centre(149)
    ring.centre(131)
    await settled(ring, 108)
    const kept = pts.map((_, frame) => frame).filter((frame) => ring.get(frame))
    expect(kept.length).toBeLessThanOrEqual(40)
    expect(kept.filter((frame) => frame < 131).length).toBeGreaterThan(20)
  })

  it('end at the ends of the film', async () => {
    const ring = new FrameRing(pts, 40, film().decode, () => undefined)
    ring.centre(0)
    await settled(ring, 10)
    ring.centre(199)
    await settled(ring, 199)
    await settled(ring, 185)
  })

  it('tell when they come, and are asked for once', async () => {
    const came: number[] = []
    const { decode, asked } = film()
    const ring = new FrameRing(pts, 36, decode, (frame) => came.push(frame))
    ring.centre(100)
    await settled(ring, 110)
    expect(new Set(came).size).toBe(came.length)
    const before = asked.length
    ring.centre(100)
    await Promise.resolve()
    expect(asked.length).toBe(before)
  })

  it('are given up where the film cannot be decoded', async () => {
    const broken: Decode = () => {
      throw new Error('no codec')
    }
    const ring = new FrameRing(pts, 36, broken, () => undefined)
    ring.centre(10)
    await Promise.resolve()
    expect(ring.get(10)).toBeUndefined()
    expect(frameAt(pts, 1)).toBe(50)
  })
})
