import type { Deck, Side } from './deck.svelte'
import { limbsOf } from './skeleton'

/** What is written under a pane of a saved picture. */
export interface Caption {
  title: string
  words: string
}

/** The frames that are shown now, side by side with their skeletons and words, as a PNG. */
export async function pictureOf(
  deck: Deck,
  panes: readonly HTMLElement[],
  captions: readonly Caption[],
): Promise<Blob> {
  const high = 480
  const widths = deck.sides.map((side) => Math.round((high * side.width) / side.height))
  const canvas = document.createElement('canvas')
  canvas.width = widths.reduce((sum, one) => sum + one, 0) + 8 * (widths.length - 1)
  canvas.height = high + 64
  const pen = canvas.getContext('2d')
  if (!pen) throw new Error('This browser cannot draw the picture.')
  const style = getComputedStyle(document.body)
  const ink = style.getPropertyValue('--ink').trim() || '#1d262b'
  pen.fillStyle = style.getPropertyValue('--page').trim() || '#f6f2e9'
  pen.fillRect(0, 0, canvas.width, canvas.height)
  let left = 0
  for (const [i, side] of deck.sides.entries()) {
    const wide = widths[i] ?? 0
    drawPane(pen, side, deck.frameOf(side), panes[i], left, wide, high)
    pen.fillStyle = ink
    pen.font = `600 20px ${style.fontFamily}`
    pen.fillText(captions[i]?.title ?? '', left + 4, high + 25, wide - 8)
    pen.font = `400 17px ${style.fontFamily}`
    pen.fillText(captions[i]?.words ?? '', left + 4, high + 50, wide - 8)
    left += wide + 8
  }
  return new Promise((done, failed) =>
    canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error('The picture could not be made.'))), 'image/png'),
  )
}

function drawPane(
  pen: CanvasRenderingContext2D,
  side: Side,
  frame: number,
  pane: HTMLElement | undefined,
  left: number,
  wide: number,
  high: number,
): void {
  pen.save()
  pen.beginPath()
  pen.rect(left, 0, wide, high)
  pen.clip()
  pen.fillStyle = '#14181a'
  pen.fillRect(left, 0, wide, high)
  const film = pane?.querySelector<HTMLVideoElement | HTMLCanvasElement>('video, canvas')
  if (film) pen.drawImage(film, left, 0, wide, high)
  const scale = high / side.height
  for (const skeleton of side.skeletons) {
    pen.strokeStyle = skeleton.body === 'partner' ? '#e2a63f' : '#8fb2ff'
    pen.lineWidth = high / 190
    pen.lineCap = 'round'
    for (const limb of limbsOf(skeleton, frame - side.first).limbs) {
      pen.beginPath()
      pen.moveTo(left + limb.x1 * scale, limb.y1 * scale)
      pen.lineTo(left + limb.x2 * scale, limb.y2 * scale)
      pen.stroke()
    }
  }
  pen.restore()
}
