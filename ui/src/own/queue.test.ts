import { describe, expect, it } from 'vitest'
import { inPage, newKey, Queue, type Act, type Answer } from './queue'

const act: Act = { to: '/me/x/message', fields: { key: 'one', words: 'Why?' } }

function server(...answers: Answer['kind'][]) {
  const sent: Act[] = []
  const send = (one: Act): Promise<Answer> => {
    sent.push(one)
    const kind = answers.shift() ?? 'sent'
    return Promise.resolve(kind === 'refused' ? { kind, why: 'too long' } : { kind })
  }
  return { sent, send }
}

describe('what is written while the connection is away', () => {
  it('is kept until somebody answers, and then gone', async () => {
    const { sent, send } = server('away', 'away', 'sent')
    const queue = new Queue(inPage(), send)
    expect(await queue.add('one', act)).toEqual({ kind: 'away' })
    await queue.flush()
    expect(await queue.waiting()).toBe(1)
    await queue.flush()
    expect(await queue.waiting()).toBe(0)
    expect(sent.map(({ fields }) => fields['key'])).toEqual(['one', 'one', 'one'])
  })
  it('is not sent again once it was refused, and tells why', async () => {
    const { send } = server('refused')
    const queue = new Queue(inPage(), send)
    expect(await queue.add('one', act)).toEqual({ kind: 'refused', why: 'too long' })
    expect(await queue.waiting()).toBe(0)
  })
  it('stops at the first that nobody answers, and sends in order', async () => {
    const { sent, send } = server('away', 'away', 'away')
    const queue = new Queue(inPage(), send)
    await queue.add('one', act)
    await queue.add('two', { ...act, fields: { key: 'two' } })
    await queue.flush()
    expect(sent.map(({ fields }) => fields['key'])).toEqual(['one', 'two', 'one'])
    await queue.flush()
    expect(sent.slice(3).map(({ fields }) => fields['key'])).toEqual(['one', 'two'])
  })
  it('is sent by one at a time', async () => {
    const { sent, send } = server('away')
    const queue = new Queue(inPage(), send)
    await queue.add('one', act)
    await Promise.all([queue.flush(), queue.flush()])
    expect(sent).toHaveLength(2)
  })
  it('has a key of its own each time', () => {
    const keys = Array.from({ length: 100 }, newKey)
    expect(new Set(keys).size).toBe(100)
    for (const key of keys) expect(key).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/)
  })
})
