import type { Clip } from '../api/client'
import { captured } from '../parts/words'

/** What a file holds, in one line. */
export function clipFacts(clip: Clip): string {
  const film = clip.has_film ? '' : 'measures only, film not kept · '
  const turned = clip.mirrored ? ' · mirrored by the phone' : ''
  const rate = `${clip.nominal_fps?.toFixed(1)} fps${clip.variable_rate ? ', variable' : ''}`
  const slow =
    clip.capture_rate.length > 1 || clip.capture_rate[0]?.rate !== 1 ? ` · ${captured(clip.capture_rate)}` : ''
  return `${film}${clip.width}×${clip.height} · ${clip.frames_done} frames · ${rate} · ${clip.duration_s?.toFixed(1)} s${slow}${clip.has_sound ? ' · sound' : ''}${turned}`
}

/** What limits the measuring, in sentences. */
export function clipFlaws(clip: Clip): string[] {
  const found: string[] = []
  if (clip.dropped_frames)
    found.push(
      `${count(clip.dropped_frames, 'gap')} in the clock, where the phone left frames out: timing is less sure there.`,
    )
  if (clip.repeated_frames)
    found.push(
      `${count(clip.repeated_frames, 'frame')} shown twice by the phone to fill its clock: an event there may be a frame later than it was.`,
    )
  if (clip.sound_broke_off) found.push('The sound cannot be read to its end; the picture is whole.')
  const { camera } = clip
  if (camera?.lost.length)
    found.push(
      `The camera’s own motion was lost ${camera.lost.map(({ first, last }) => `at frames ${first}–${last}`).join(', ')}: no paths or speeds are read there.`,
    )
  else if (camera && !camera.still)
    found.push(
      `Filmed by hand: the camera’s motion is known to ±${camera.residual_px?.toFixed(1)} px and can be taken out of paths and speeds.`,
    )
  return found
}

function count(number: number, word: string): string {
  return `${number} ${word}${number === 1 ? '' : 's'}`
}
