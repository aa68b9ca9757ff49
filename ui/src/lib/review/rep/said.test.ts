import { expect, test } from 'vitest'
import { rep, technique } from '../state/making'
import { saidOf } from './said'

const names: Record<string, string> = { bela: 'Bela Novak', cleo: 'Cleo Arrow' }
const said = (change: Parameters<typeof rep>[1]) =>
  saidOf(rep('rep', change), [technique()], 'bela', (id) => names[id] ?? '')

test('a rep tells who performs it where that is not the clip’s student, and who the partner is where that is known', () => {
  expect(said({ student_id: 'cleo', partner: 'person' })).toEqual(
    expect.arrayContaining(['by Cleo Arrow', 'with a partner']),
  )
  const named = said({ student_id: 'bela', partner: 'person', partner_student_id: 'cleo' })
  expect(named).toContain('with Cleo Arrow')
  expect(named).not.toContain('with a partner')
  expect(named.filter((word) => word.startsWith('by '))).toEqual([])
})
