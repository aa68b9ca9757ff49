import { describe, expect, it } from 'vitest'
import { filmSlots, levelFor, tracePath } from './strip'

const FILM = {
  width: 160,
  height: 90,
  levels: [
    { step: 4, pictures: 250, sheets: 3 },
    { step: 16, pictures: 63, sheets: 1 },
  ],
}

describe('the filmstrip', () => {
  it('fills the strip with pictures in order, each beside the frames it stands over', () => {
    const slots = filmSlots(FILM, 0, 999, 800, 45)
    expect(slots).toHaveLength(10)
    expect(slots.map((slot) => slot.level)).toEqual(Array(10).fill(1))
    for (const [k, slot] of slots.entries()) expect(Math.abs(slot.frame - (k + 0.5) * 99.9)).toBeLessThanOrEqual(16)
  })
  it('takes the finer zoom when few frames are shown', () => {
    const slots = filmSlots(FILM, 100, 180, 800, 45)
    expect(new Set(slots.map((slot) => slot.level))).toEqual(new Set([0]))
    expect(slots.every((slot) => slot.frame >= 100 && slot.frame <= 184)).toBe(true)
  })
  it('finds a picture on its own sheet, row and column', () => {
    const [slot] = filmSlots(FILM, 899, 901, 80, 45)
    expect(slot).toMatchObject({ frame: 900, level: 0, sheet: 2, left: 5 * 80, top: 2 * 45, sheetWidth: 800 })
  })
  it('draws a last sheet of one short row only as wide as it is', () => {
    const short = { ...FILM, levels: [{ step: 4, pictures: 107, sheets: 2 }] }
    expect(filmSlots(short, 419, 421, 80, 45)[0]).toMatchObject({ sheet: 1, left: 5 * 80, sheetWidth: 7 * 80 })
  })
  it.each([
    [1, 0],
    [15, 0],
    [16, 1],
    [1000, 1],
  ])('%i frames a slot ask for zoom %i', (frames, level) => {
    expect(levelFor(FILM, frames)).toBe(level)
  })
})

describe('a trace', () => {
  it('keeps the largest of the values that share a pixel, and closes on its base', () => {
    const path = tracePath([0, 10, 99, 20], (k) => Math.floor(k / 4), 0, 3, 20, 18)
    expect(path).toBe('M0 20L0 2.0L0 20Z')
  })
  it('is nothing where nothing is', () => expect(tracePath([], (k) => k, 0, 9, 20, 18)).toBe(''))
})
