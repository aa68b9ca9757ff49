import { describe, expect, it } from 'vitest'
import { Asked } from './asked.svelte'

describe('a question', () => {
  it('is answered once, and closed by that', async () => {
    const asked = new Asked()
    const answer = asked.ask('Delete the clip?', 'It is gone then.', 'Delete')
    expect(asked.open).toMatchObject({ title: 'Delete the clip?', action: 'Delete' })
    asked.answer(true)
    asked.answer(false)
    expect(await answer).toBe(true)
    expect(asked.open).toBeNull()
  })
  it('that another one replaces is answered with no', async () => {
    const asked = new Asked()
    const first = asked.ask('a', '', 'Delete')
    const second = asked.ask('b', '', 'Delete')
    expect(await first).toBe(false)
    asked.answer(true)
    expect(await second).toBe(true)
  })
})
