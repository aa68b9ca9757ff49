import { describe, expect, it } from 'vitest'
import { job as made } from '../review/state/making'
import { TASKS, jobOf, progressOf, runs } from './jobs'

const job = made({ id: 'j' })

describe('jobs', () => {
  it.each([
    ['waiting', 'waiting for the worker', true],
    ['running', '25 %', true],
    ['done', 'done', false],
    ['failed', 'failed', false],
    ['stopped', 'stopped', false],
  ] as const)('a %s job says “%s”', (state, words, running) => {
    expect(progressOf({ ...job, state })).toBe(words)
    expect(runs({ ...job, state })).toBe(running)
  })
  it('says how many wait before it', () => {
    expect(progressOf({ ...job, state: 'waiting' }, 12)).toBe('waiting, 12 before it')
    expect(progressOf({ ...job, state: 'waiting' }, 0)).toBe('waiting for the worker')
    expect(progressOf({ ...job, state: 'running' }, 12)).toBe('25 %')
  })
  it('says that it starts, and that it is stopping', () => {
    expect(progressOf({ ...job, of: null })).toBe('starting')
    expect(progressOf({ ...job, stop_asked: true })).toBe('stopping')
    expect(runs(null)).toBe(false)
  })
  it('is found by what is done to what', () => {
    expect(jobOf([job], 'track_points', 'rep')).toBe(job)
    expect(jobOf([job], 'track_points', 'other')).toBeNull()
    expect(jobOf([job], 'read_clip', 'rep')).toBeNull()
  })
  it('has a name for each task', () => {
    expect(Object.values(TASKS).every((name) => /^[A-Z]/.test(name))).toBe(true)
  })
})
