/** The clock of a class as the server told it at its own time `now`. */
export interface Told {
  unit: number
  left_s: number
  all_left_s: number
  running: boolean
  over: boolean
  now: number
}

export interface Place {
  unit: number
  left: number
  all: number
  over: boolean
}

/** How far this device’s clock is ahead of the server’s, seconds: known each time that the server tells its time. */
export function aheadBy(told: Told, here: number = Date.now() / 1000): number {
  return here - told.now
}

/** Where a class is at a time of this device. Worked out from times alone: a phone that slept shows the right unit at once. */
export function placeAt(
  told: Told,
  lengths: readonly number[],
  ahead: number,
  here: number = Date.now() / 1000,
): Place {
  if (told.over) return { unit: told.unit, left: 0, all: 0, over: true }
  let { unit, left_s: left } = told
  let gone = told.running ? Math.max(0, here - ahead - told.now) : 0
  while (unit < lengths.length && gone >= left) {
    gone -= left
    unit += 1
    left = lengths[unit] ?? 0
  }
  if (unit >= lengths.length) return { unit: lengths.length, left: 0, all: 0, over: true }
  left -= gone
  return { unit, left, all: left + lengths.slice(unit + 1).reduce((sum, one) => sum + one, 0), over: false }
}

export interface RoundNow {
  round: number
  of: number
  rest: boolean
  left: number
}

/** Which round of a unit runs so many seconds after it began; null where its rounds are over. */
export function roundAt(elapsed: number, rounds: number, seconds: number, rest: number): RoundNow | null {
  const number = Math.floor(elapsed / (seconds + rest))
  const within = elapsed - number * (seconds + rest)
  if (elapsed < 0 || number >= rounds || (number === rounds - 1 && within >= seconds)) return null
  const resting = within >= seconds
  return { round: number + 1, of: rounds, rest: resting, left: (resting ? seconds + rest : seconds) - within }
}

/** A short tone, so that the mat hears what begins and ends; silence where the browser allows none. */
export function beep(high: boolean): void {
  const Sound = window.AudioContext
  if (!Sound) return
  const sound = new Sound()
  const tone = sound.createOscillator()
  const loud = sound.createGain()
  tone.frequency.value = high ? 880 : 440
  loud.gain.value = 0.25
  tone.connect(loud).connect(sound.destination)
  tone.start()
  tone.stop(sound.currentTime + (high ? 0.6 : 0.25))
  tone.onended = () => void sound.close()
}
