import { describe, expect, it } from 'vitest'
import { Asking } from './asking.svelte'

describe('asking the server', () => {
  it('says why the last thing failed until one is done', async () => {
    const asking = new Asking()
    expect(await asking.run(() => Promise.reject(new Error('There is a grade “Yellow” already.')))).toBe(false)
    expect(asking.failure).toBe('There is a grade “Yellow” already.')
    expect(await asking.run(() => Promise.resolve())).toBe(true)
    expect(asking.failure).toBe('')
  })
  it('turns whatever was thrown into words', async () => {
    const asking = new Asking()
    await asking.run(() => Promise.reject('gone'))
    expect(asking.failure).toBe('gone')
  })
})
