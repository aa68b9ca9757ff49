import { expect, it } from 'vitest'
import { days } from './days'

it.each([
  [0.2, 'in 1 minute'],
  [10, 'in 10 minutes'],
  [60, 'in 1 hour'],
  [300, 'in 5 hours'],
  [24 * 60, 'tomorrow'],
  [6.4 * 24 * 60, 'in 6 days'],
])('%d minutes later comes back %s', (minutes, words) => {
  const now = Date.parse('2026-05-04T10:00:00Z')
  expect(days(new Date(now + minutes * 60_000).toISOString(), now)).toBe(words)
})
