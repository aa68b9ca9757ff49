import { describe, expect, it } from 'vitest'
import { text, wantsReply, type Item } from './items'

const item = (more: Partial<Item>): Item => ({
  id: 'one',
  kind: 'question',
  sent_by: 'student',
  student_id: 's',
  student: 'A Student',
  words: '',
  review_id: null,
  clip_id: null,
  clip: '',
  technique: '',
  checkpoint: '',
  created_at: '2026-05-04T10:00:00Z',
  done_at: null,
  reply: '',
  replied_at: null,
  by: '',
  has_address: false,
  ...more,
})

describe('an item of the inbox', () => {
  it('waits for a reply where something was asked', () => {
    expect(wantsReply(item({ words: 'Why?' }))).toBe(true)
    expect(wantsReply(item({ kind: 'clip', words: 'Too early?' }))).toBe(true)
    expect(wantsReply(item({ kind: 'clip' }))).toBe(false)
    expect(wantsReply(item({ words: 'Why?', reply: 'So.' }))).toBe(false)
    expect(wantsReply(item({ kind: 'answer', words: 'tried' }))).toBe(false)
  })
  it('always has something to read', () => {
    expect(text(item({ kind: 'opened' }))).toContain('the page')
    expect(text(item({ kind: 'opened', clip: 'kick.mp4' }))).toContain('kick.mp4')
    expect(text(item({ kind: 'clip', clip: 'kick.mp4' }))).toBe('kick.mp4')
    expect(text(item({ kind: 'forget' }))).toContain('deleted')
    expect(text(item({ words: 'Why?' }))).toBe('Why?')
  })
})
