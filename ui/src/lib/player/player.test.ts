import { beforeEach, describe, expect, it, vi } from 'vitest'
import { Player, SPEEDS } from './player.svelte'

const PTS = [0, 0.033, 0.066, 0.133, 0.166, 0.2]

/** A video element as far as the player needs one: seeks end when `settle` is called. */
class FakeVideo extends EventTarget {
  readyState = 4
  playbackRate = 1
  paused = true
  seeks: number[] = []
  #time = 0
  #presented: ((now: number, frame: { mediaTime: number }) => void) | null = null
  get currentTime(): number {
    return this.#time
  }
  set currentTime(time: number) {
    this.#time = time
    this.seeks.push(time)
  }
  requestVideoFrameCallback(callback: (now: number, frame: { mediaTime: number }) => void): number {
    this.#presented = callback
    return 1
  }
  present(mediaTime: number): void {
    this.#presented?.(0, { mediaTime })
  }
  /** The seek ends and the frame is presented. */
  settle(mediaTime: number): void {
    this.present(mediaTime)
    this.dispatchEvent(new Event('seeked'))
  }
  play(): Promise<void> {
    this.paused = false
    return Promise.resolve()
  }
  pause(): void {
    this.paused = true
    this.dispatchEvent(new Event('pause'))
  }
}

let video: FakeVideo
let player: Player
beforeEach(() => {
  video = new FakeVideo()
  player = new Player()
  player.attach(video as unknown as HTMLVideoElement, PTS)
})

describe('stepping', () => {
  it('seeks to the middle between a frame’s own time and the next one’s', () => {
    player.go(2)
    expect(video.seeks.at(-1)).toBeCloseTo((0.066 + 0.133) / 2)
  })
  it('shows a frame’s number only when that frame is on the screen', () => {
    player.go(3)
    expect([player.shown, player.underWay]).toEqual([0, true])
    video.settle(0.133)
    expect([player.shown, player.underWay]).toEqual([3, false])
  })
  it('of several asked for quickly, seeks on to the last one', () => {
    player.go(1)
    player.step(1)
    player.step(1)
    expect(video.seeks).toHaveLength(1)
    video.settle(0.033)
    expect(video.seeks).toHaveLength(2)
    video.settle(0.133)
    expect([player.shown, player.wanted]).toEqual([3, 3])
  })
  it.each([
    [-5, 0],
    [99, 5],
    [1.4, 1],
  ])('going to %s ends at frame %s', (asked, frame) => {
    player.go(asked)
    expect(player.wanted).toBe(frame)
  })
  it('has no last frame to go past', () => {
    player.go(player.last)
    video.settle(0.2)
    player.step(10)
    expect(player.wanted).toBe(5)
  })
})

describe('playing', () => {
  it('follows what is presented, and stops on the frame it shows', () => {
    player.toggle()
    expect(player.playing).toBe(true)
    expect(video.playbackRate).toBe(0.25)
    video.present(0.066)
    expect([player.shown, player.wanted]).toEqual([2, 2])
    player.toggle()
    expect(player.playing).toBe(false)
    expect(video.seeks.at(-1)).toBeCloseTo((0.066 + 0.133) / 2)
  })
  it('a step while it plays stops it beside the frame shown', () => {
    player.toggle()
    video.present(0.066)
    player.step(1)
    expect(player.playing).toBe(false)
    expect(player.wanted).toBe(3)
  })
  it('goes through the speeds and comes round', () => {
    const seen = SPEEDS.map(() => (player.cycleSpeed(), player.speed))
    expect(new Set(seen)).toEqual(new Set(SPEEDS))
    expect(video.playbackRate).toBe(player.speed)
  })
})

describe('a clip whose film is not kept', () => {
  it('shows the frame that was asked for', () => {
    const filmless = new Player()
    filmless.attachNothing(PTS)
    filmless.go(4)
    expect([filmless.shown, filmless.last]).toEqual([4, 5])
    filmless.toggle()
    expect(filmless.playing).toBe(false)
  })
})

describe('taking over an element that was stepped before', () => {
  it('shows the frame that is on it, and goes on to the one asked for', () => {
    video.currentTime = 0.1
    const next = new Player()
    next.go(2)
    next.attach(video as unknown as HTMLVideoElement, PTS)
    expect([next.shown, next.wanted]).toEqual([2, 2])
    const other = new Player()
    other.attach(video as unknown as HTMLVideoElement, PTS)
    expect(other.shown).toBe(2)
    expect(video.seeks.at(-1)).toBeCloseTo((0 + 0.033) / 2)
  })
})

describe('letting go', () => {
  it('leaves the element alone once it is off the page', () => {
    const other = new FakeVideo()
    const own = new Player()
    const letGo = own.attach(other as unknown as HTMLVideoElement, PTS)
    letGo()
    own.go(3)
    expect(other.seeks).toHaveLength(0)
  })
})

describe('high-speed capture', () => {
  // Eight seconds of the file are one of reality from frame 2 on.
  const REAL = [0, 0.033, 0.066, 0.074375, 0.0785, 0.08275]
  beforeEach(() => {
    player = new Player()
    player.attach(video as unknown as HTMLVideoElement, PTS, REAL)
  })
  it('is known by how long the file takes over a second of reality', () => {
    expect(player.highSpeed).toBe(true)
    expect(player.rateAt(0)).toBeCloseTo(1)
    expect(player.rateAt(2)).toBeCloseTo(8)
    expect(player.rateAt(5)).toBeCloseTo(8)
  })
  it('offers real time after the slow speeds, and follows a ramp while it plays', () => {
    player.speed = 0.125
    player.cycleSpeed()
    expect(player.speed).toBe('real')
    player.toggle()
    video.present(0.01)
    expect(video.playbackRate).toBeCloseTo(1)
    video.present(0.15)
    expect(video.playbackRate).toBeCloseTo(8)
    player.cycleSpeed()
    expect(player.speed).toBe(1)
  })
})

describe('a loop', () => {
  it('goes back to its first frame when its last one is shown, and ends by the same again', () => {
    player.toggleLoop(1, 3)
    player.toggle()
    expect(video.seeks.at(-1)).toBeCloseTo((0.033 + 0.066) / 2)
    video.present(0.066)
    const before = video.seeks.length
    video.present(0.133)
    expect(video.seeks).toHaveLength(before + 1)
    expect(video.seeks.at(-1)).toBeCloseTo((0.033 + 0.066) / 2)
    player.toggleLoop(1, 3)
    expect(player.loop).toBeNull()
  })
})

describe('a held key', () => {
  it('runs on only when the last step is on the screen, and rests when it is let go', () => {
    vi.useFakeTimers()
    try {
      player.run(1)
      player.run(1)
      expect(player.wanted).toBe(1)
      vi.advanceTimersByTime(200)
      expect(player.wanted).toBe(1)
      video.settle(0.033)
      vi.advanceTimersByTime(40)
      expect(player.wanted).toBe(2)
      player.rest()
      video.settle(0.066)
      vi.advanceTimersByTime(500)
      expect(player.wanted).toBe(2)
    } finally {
      vi.useRealTimers()
    }
  })
})
