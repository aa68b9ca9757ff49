import { describe, expect, it } from 'vitest'
import { Working } from './working'

describe('the clock of a review', () => {
  it('runs while the bench is used and stops a minute after', () => {
    const working = new Working(0)
    working.touch(10_000)
    working.touch(40_000)
    working.count(45_000)
    expect(working.take()).toBe(45)
    working.count(500_000)
    expect(working.take()).toBe(55)
    working.touch(600_000)
    working.count(620_000)
    expect(working.take()).toBe(20)
  })

  it('does not run while the page is not seen, and loses nothing that could not be told', () => {
    const working = new Working(0)
    working.count(30_000, false)
    expect(working.take()).toBe(0)
    working.touch(31_000)
    working.count(41_000)
    const told = working.take()
    expect(told).toBe(11)
    working.giveBack(told)
    expect(working.take()).toBe(11)
  })
})
