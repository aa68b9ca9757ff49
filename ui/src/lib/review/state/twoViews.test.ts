import { expect, test } from 'vitest'
import { TwoViews } from './twoViews.svelte'

function store(first: string | null = null) {
  let text = first
  return { getItem: () => text, setItem: (_: string, value: string) => void (text = value) }
}

test('the small view goes round the corners clockwise and comes back', () => {
  const views = new TwoViews(store())
  const seen = Array.from({ length: 4 }, () => {
    views.turn()
    return `${views.x}${views.y}`
  })
  expect(seen).toEqual(['01', '00', '10', '11'])
})

test('it is never moved out of the picture, and how it lay is kept', () => {
  const kept = store()
  const views = new TwoViews(kept)
  views.move(-3, 0.4)
  views.swap()
  views.show('beside')
  const again = new TwoViews(kept)
  expect([again.x, again.y, again.swapped, again.layout]).toEqual([0, 0.4, true, 'beside'])
  again.next()
  expect(again.layout).toBe('hidden')
})

test.each([null, 'null', '7', '{"layout":"round"}', '{"layout":"corner"', '{"layout":"corner","x":"1","y":0}'])(
  'what cannot be read is as if nothing had been kept: %s',
  (text) => {
    const views = new TwoViews(store(text))
    expect([views.layout, views.swapped, views.x, views.y]).toEqual(['corner', false, 1, 1])
  },
)
