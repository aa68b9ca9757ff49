import type { Schemas } from '../api/client'

/** Hand a text to the browser as a file. */
export function saveText(name: string, text: string, kind: string): void {
  saveBlob(name, new Blob([text], { type: `${kind};charset=utf-8` }))
}

/** Hand bytes to the browser as a file. */
export function saveBlob(name: string, blob: Blob): void {
  const address = URL.createObjectURL(blob)
  const link = document.createElement('a')
  link.href = address
  link.download = name.replace(/[^\p{L}\p{N}._-]+/gu, '-')
  link.click()
  setTimeout(() => URL.revokeObjectURL(address), 10_000)
}

/** A field of a CSV file; a text that a table program might run as a formula is made plain. */
function field(value: string | number | null | undefined): string {
  if (value == null) return ''
  const text = typeof value === 'number' ? String(value) : /^[=+\-@\t]/.test(value) ? `'${value}` : value
  return /[",\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
}

export function csv(rows: readonly (readonly (string | number | null | undefined)[])[]): string {
  return rows.map((row) => row.map(field).join(',')).join('\r\n') + '\r\n'
}

/** A checkpoint's curves in all reps of a set: one line a frame. */
export function curvesCsv(found: Schemas['CurvesOut'], chosen: number): string {
  const unit = found.reps[0]?.curves[chosen]?.unit ?? ''
  const name = found.reps[0]?.curves[chosen]?.name ?? found.checkpoint
  const head = [
    'rep',
    'frame',
    `seconds from ${found.event ?? 'the beginning'}`,
    `${name} (${unit})`,
    'standard uncertainty',
  ]
  const rows = found.reps.flatMap((rep, number) => {
    const curve = rep.curves[chosen]
    return (curve?.values ?? []).map((value, i) => [number + 1, rep.first + i, rep.clock_s[i], value, curve?.u[i]])
  })
  return csv([head, ...rows])
}

/** Draw an SVG of the page into a PNG, twice as fine; colours and fonts of the page are written into it. */
export async function savePicture(name: string, svg: SVGSVGElement): Promise<void> {
  const { width, height } = svg.getBoundingClientRect()
  const copy = svg.cloneNode(true) as SVGSVGElement
  const own = [svg, ...svg.querySelectorAll('*')]
  const copies = [copy, ...copy.querySelectorAll('*')]
  own.forEach((element, i) => {
    const style = getComputedStyle(element)
    for (const part of ['fill', 'stroke', 'font-family', 'font-size', 'font-weight', 'fill-opacity', 'stroke-opacity'])
      copies[i]?.setAttribute(part, style.getPropertyValue(part))
  })
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  const picture = new Image()
  picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(new XMLSerializer().serializeToString(copy))}`
  await picture.decode()
  const canvas = document.createElement('canvas')
  canvas.width = Math.round(width * 2)
  canvas.height = Math.round(height * 2)
  const pen = canvas.getContext('2d')
  if (!pen) return
  pen.fillStyle = getComputedStyle(document.body).backgroundColor
  pen.fillRect(0, 0, canvas.width, canvas.height)
  pen.drawImage(picture, 0, 0, canvas.width, canvas.height)
  await new Promise<void>((done) =>
    canvas.toBlob((blob) => {
      if (blob) saveBlob(name, blob)
      done()
    }, 'image/png'),
  )
}
