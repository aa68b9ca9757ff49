import { describe, expect, it, vi } from 'vitest'
import { ApiError } from '../api/client'
import { coachDoor, studentDoor, type Answered, type EyeDoor } from './door'
import { EyeSet, sendKept, waitingToBeSent, type Asked, type Kept } from './set.svelte'

const asked = (id: string): Asked => ({
  question: {
    kind: 'frame', technique: 'front-kick', subject: 'knee_top', says: 'First frame in which the knee is highest',
    choices: [], frame: null, first: 3, last: 90, low: null, high: null,
  },
  technique_name: 'Front kick',
  level: 1,
  films: [{ id, width: 854, height: 480, first: 3, last: 90, pts_s: [0, 0.1], is_real: false }],
}) // prettier-ignore
const came: Answered = {
  scored: { hit: true, grade: 3, frames: 1, ms: 16.7, degrees: null, after: null },
  truth: { frame: 40, value: null, choice: null, says: 'Frame 38.', why: '', drawn: [] },
  level: 2,
  due_at: '2026-05-04T10:00:00Z',
}
function memory(): Kept {
  const held = new Map<string, string>()
  return { getItem: (key) => held.get(key) ?? null, setItem: (key, value) => void held.set(key, value) }
}
const refuse = (why: string) => () => Promise.reject(new ApiError(why, 404, 'not_found'))
const door = (answer: EyeDoor['answer']): EyeDoor => ({ ...coachDoor, answer })
const noFilm = () => Promise.reject(new Error('none'))

describe('a set', () => {
  it('asks one after the other and tells what came of each', async () => {
    const send = vi.fn(() => Promise.resolve(came))
    const set = new EyeSet([asked('a'), asked('b')], door(send), memory(), noFilm)
    set.next()
    expect(set.at).toBe(0)
    await set.answer({ frame: 41, before: null, after: null, choice: null })
    await set.answer({ frame: 44, before: null, after: null, choice: null })
    expect(send).toHaveBeenCalledTimes(1)
    expect(set.result).toEqual(came)
    set.next()
    expect([set.at, set.hits, set.isOver]).toEqual([1, 1, false])
  })
  it('goes on without a connection, and sends what was kept later, in order and once', async () => {
    const kept = memory()
    const away = vi.fn(() => Promise.reject(new ApiError('The server cannot be reached.', 0, 'offline')))
    const set = new EyeSet([asked('a'), asked('b')], door(away), kept, noFilm)
    for (const frame of [41, 42]) {
      await set.answer({ frame, before: null, after: null, choice: null })
      expect(set.result).toBeNull()
      set.next()
    }
    expect([set.isOver, waitingToBeSent(coachDoor, kept)]).toEqual([true, 2])
    const sent: (number | null | undefined)[] = []
    const back = vi.fn((answer: { given: { frame?: number | null } }) => {
      sent.push(answer.given.frame)
      return Promise.resolve(came)
    })
    set.told(await sendKept(door(back), kept))
    expect([set.hits, set.late.map((one) => one.came)]).toEqual([2, [came, came]])
    expect([sent, waitingToBeSent(coachDoor, kept)]).toEqual([[41, 42], 0])
    expect(await sendKept(door(back), kept)).toEqual([])
  })
  it('tells at its question what came of an answer that was kept, as soon as the next one is sent', async () => {
    let away = true
    const set = new EyeSet(
      [asked('a'), asked('b')],
      door(() => (away ? Promise.reject(new ApiError('away', 0, 'offline')) : Promise.resolve(came))),
      memory(),
      noFilm,
    )
    await set.answer({ frame: 41, before: null, after: null, choice: null })
    set.next()
    away = false
    await set.answer({ frame: 42, before: null, after: null, choice: null })
    expect([set.came, set.late.length]).toEqual([[came, came], 1])
  })
  it('says why an answer was refused, and may be skipped', async () => {
    const kept = memory()
    const set = new EyeSet([asked('a')], door(refuse('no longer asked')), kept, noFilm)
    await set.answer({ frame: 4, before: null, after: null, choice: null })
    expect([set.failure, set.result, waitingToBeSent(coachDoor, kept)]).toEqual(['no longer asked', undefined, 0])
    set.skip()
    expect(set.isOver).toBe(true)
  })
  it('gives up what the server refuses of what was kept', async () => {
    const kept = memory()
    kept.setItem('lacertus.eye', 'not json')
    expect(waitingToBeSent(coachDoor, kept)).toBe(0)
    kept.setItem('lacertus.eye', JSON.stringify([{ key: 'x' }, { key: 'y' }]))
    expect(await sendKept(door(refuse('refused')), kept)).toEqual([])
    expect(waitingToBeSent(coachDoor, kept)).toBe(0)
  })
  it('keeps what somebody answered who is signed out meanwhile', async () => {
    const kept = memory()
    const out = door(() => Promise.reject(new ApiError('Sign in first.', 401, 'not_signed_in')))
    const set = new EyeSet([asked('a')], out, kept, noFilm)
    await set.answer({ frame: 41, before: null, after: null, choice: null })
    expect([set.result, waitingToBeSent(coachDoor, kept)]).toEqual([null, 1])
    await expect(sendKept(out, kept)).rejects.toThrow('Sign in first.')
    expect(waitingToBeSent(coachDoor, kept)).toBe(1)
  })
  it('keeps the answers of two students on one phone apart', async () => {
    const kept = memory()
    const away = { ...studentDoor('/me/one'), answer: () => Promise.reject(new ApiError('away', 0, 'offline')) }
    const set = new EyeSet([asked('a')], away, kept, noFilm)
    await set.answer({ frame: 41, before: null, after: null, choice: null })
    expect(waitingToBeSent(studentDoor('/me/one'), kept)).toBe(1)
    expect(waitingToBeSent(studentDoor('/me/two'), kept)).toBe(0)
  })
})
