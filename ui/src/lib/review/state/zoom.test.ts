import { describe, expect, it } from 'vitest'
import { Zoom } from './zoom.svelte'

/** Where a place of the picture (shares) is shown in the frame (shares). */
const shown = (zoom: Zoom, at: { x: number; y: number }) => ({
  x: zoom.x + at.x * zoom.factor,
  y: zoom.y + at.y * zoom.factor,
})

describe('zooming into the picture', () => {
  it('keeps what lies under the pointer where it is', () => {
    const zoom = new Zoom()
    const about = { x: 0.3, y: 0.7 }
    zoom.by(2, about)
    expect(shown(zoom, about)).toEqual({ x: expect.closeTo(0.3), y: expect.closeTo(0.7) })
    zoom.by(1.5, about)
    expect(shown(zoom, about)).toEqual({ x: expect.closeTo(0.3), y: expect.closeTo(0.7) })
  })
  it('never shows past the picture’s edges', () => {
    const zoom = new Zoom()
    zoom.by(2)
    zoom.pan(9, -9)
    expect([zoom.x, zoom.y]).toEqual([0, -1])
  })
  it('never shrinks below the whole picture, nor beyond eight times', () => {
    const zoom = new Zoom()
    zoom.by(0.2)
    expect([zoom.factor, zoom.x, zoom.y]).toEqual([1, 0, 0])
    for (let k = 0; k < 20; k++) zoom.by(2)
    expect(zoom.factor).toBe(8)
    zoom.reset()
    expect(zoom.css).toBe('translate(0%, 0%) scale(1)')
  })
})
