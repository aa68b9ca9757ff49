import { describe, expect, it } from 'vitest'
import { actOf, countdown, helpedWords, minuteOf, moved, shareWords, timeOf } from './words'

describe('times', () => {
  it('are read as they are written', () => {
    for (const minute of [0, 59, 605, 1439]) expect(minuteOf(timeOf(minute))).toBe(minute)
    expect(minuteOf('24:00')).toBeNull()
    expect(minuteOf('6 pm')).toBeNull()
  })

  it('count down to nothing and not below', () => {
    expect([305, 9.2, 0, -4].map(countdown)).toEqual(['5:05', '0:10', '0:00', '0:00'])
  })
})

describe('words', () => {
  it('tell a share with its interval', () => {
    expect(shareWords({ count: 6, of: 10, interval: [0.31, 0.83] })).toBe('6 of 10 (31–83 %)')
  })

  it('say when too little is known', () => {
    const part = { misses: 3, exposures: 8, sessions: 1, interval: [0, 1] as [number, number], rate: 0.4 }
    expect(helpedWords({ verdict: 'too_little', before: part, after: part })).toContain('Too little to tell')
    expect(helpedWords({ verdict: 'helped', before: part, after: part })).toMatch(/^Helped: missed in 3 of 8/)
  })

  it('name the act by where the work is', () => {
    expect(['/bench/x', '/inbox', '/clips', '/students/x'].map(actOf)).toEqual(['Review', 'Answer', 'Name it', 'Open'])
  })
})

describe('moving a unit', () => {
  const units = ['a', 'b', 'c', 'd'].map((name) => ({ name, locked: name === 'c' }))
  const names = (from: number, to: number) =>
    moved(units, from, to)
      .map((one) => one.name)
      .join('')

  it('puts it where it is dropped', () => {
    expect(names(1, 0)).toBe('bacd')
    expect(names(0, 1)).toBe('bacd')
  })

  it('moves nothing that is locked, and nothing past it', () => {
    expect(names(2, 0)).toBe('abcd')
    expect(names(0, 3)).toBe('abcd')
    expect(names(3, 1)).toBe('abcd')
    expect(names(0, 9)).toBe('abcd')
  })
})
