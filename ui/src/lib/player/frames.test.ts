import { describe, expect, it } from 'vitest'
import { frameAt, midTime } from './frames'

const UNEVEN = [0, 0.033, 0.1, 0.12, 0.4]

describe('frame times', () => {
  it.each(UNEVEN.map((_, frame) => frame))('a seek to the middle of frame %i lands in that frame', (frame) => {
    expect(frameAt(UNEVEN, midTime(UNEVEN, frame))).toBe(frame)
  })
  it('a frame begins at its own time, also when the clock rounds it down', () => {
    expect(frameAt(UNEVEN, 0.0998)).toBe(2)
    expect(frameAt(UNEVEN, 0.09)).toBe(1)
  })
  it('times outside the clip give its ends', () => {
    expect(frameAt(UNEVEN, -1)).toBe(0)
    expect(frameAt(UNEVEN, 99)).toBe(4)
  })
  it('a clip of one frame has a middle too', () => {
    expect(midTime([0], 0)).toBeGreaterThan(0)
  })
})
