import { describe, expect, it } from 'vitest'
import { findable, fits, pointName, sided } from './words'

describe('a technique written in relative words', () => {
  it('names points by side', () => {
    expect(pointName('working_knee', 'right')).toBe('right knee')
    expect(pointName('other_knee', 'right')).toBe('left knee')
    expect(pointName('partner.working_toe', 'left')).toBe('partner’s left toe')
  })
  it('names events by side and leaves other words alone', () => {
    expect(sided('the working knee meets the other knee', 'left')).toBe('the left knee meets the right knee')
    expect(sided('the other hand leaves the grip', 'right')).toBe('the left hand leaves the grip')
    expect(sided('with each other', 'right')).toBe('with each other')
  })
  it('is found by any alias, word by word', () => {
    const text = findable({ name: 'Front kick', aliases: ['mae geri'], family: 'kick' })
    expect(fits(text, 'geri')).toBe(true)
    expect(fits(text, 'kick mae')).toBe(true)
    expect(fits(text, 'throw')).toBe(false)
  })
})
