import type { Schemas } from '../../api/client'
import type { Path, TechniqueFile } from './file'

export type Form = Schemas['FormOut']

/** The form that a checkpoint is written in; none where it says more than the forms do. */
export function formOf(file: TechniqueFile, checkpoint: Path, forms: readonly Form[]): Form | undefined {
  const kind = file.words([...checkpoint, 'kind'])
  const measure = file.at([...checkpoint, 'measure'])
  return forms.find((form) => form.kind === kind && fits(measure, form))
}

/** Everything that is written is a place of the form or fixed by it, and no place is missing but for choices. */
function fits(measure: unknown, form: Form): boolean {
  const written = new Map(leaves(measure, []))
  const held = (path: Path) => written.get(path.join('.'))
  const expected = form.fixed.every(({ path, value }) => held(path) === value)
  const places = form.places.every((place) => {
    if (place.of === 'events') return typeof held([...place.path, 1]) === 'string'
    const value = held(place.path)
    return place.of === 'choice'
      ? value === undefined || place.choices.some(([one]) => one === value)
      : typeof value === 'string'
  })
  const known = new Set([...form.fixed, ...form.places].map(({ path }) => path.join('.')))
  const list = form.places.find((place) => place.of === 'events')?.path.join('.')
  const nothingElse = [...written].every(
    ([path, value]) => known.has(path) || (!!list && path.startsWith(`${list}.`) && typeof value === 'string'),
  )
  return expected && places && nothingElse
}

/** Every single value of nested mappings and lists, with its path. */
function leaves(value: unknown, path: Path): [string, unknown][] {
  if (typeof value !== 'object' || value === null) return [[path.join('.'), value]]
  return Object.entries(value).flatMap(([key, inner]) => leaves(inner, [...path, key]))
}

/** A form's `measure` with its usual points, and of these events, in order, those that lie where it wants them. */
export function begun(form: Form, events: readonly string[]): Record<string, unknown> {
  const measure = plainCopy(form.blank) as Record<string, unknown>
  for (const place of form.places) {
    if (place.of !== 'event' && place.of !== 'events') continue
    const first = events[Math.round(Number(place.usual) * (events.length - 1))] ?? ''
    const value = place.of === 'event' ? first : [first, events.at(-1) ?? '']
    let node = measure as Record<string | number, unknown>
    for (const key of place.path.slice(0, -1)) node = node[key] as Record<string | number, unknown>
    node[place.path.at(-1) ?? ''] = value
  }
  return measure
}

/** A copy that holds nothing reactive. */
const plainCopy = (value: unknown): unknown => JSON.parse(JSON.stringify(value))

/** The ruler of a form's range: in lengths of the body where another unit than the usual one is chosen. */
export function rulerOf(form: Form, measure: unknown): NonNullable<Form['wanted']> | null {
  const unit = form.places.find((place) => place.key === 'unit')
  const chosen = unit && (measure as Record<string, unknown> | null)?.['unit']
  if (!form.in_lengths || !unit || chosen === undefined || chosen === unit.usual) return form.wanted
  return { ...form.in_lengths, unit: unit.choices.find(([one]) => one === chosen)?.[1] ?? '' }
}

/** A form's sentence cut into words and places. */
export function partsOf(form: Form): (string | Form['places'][number])[] {
  const parts = form.says.split(/(\{[a-z_]+\})/).filter((part) => part !== '')
  return parts.map((part) => form.places.find((one) => part === `{${one.key}}`) ?? part)
}

/** “working/other” → the words for the near and the other side of a body. */
export function sidesOf(file: TechniqueFile): [string, string] {
  const [near = 'working', far = 'other'] = (file.words(['sides']) || 'working/other').split('/')
  return [near, far]
}

/** `right_knee` of a body done on the right side → `working_knee`, as the file names it. */
export function relative(joint: string, body: string, [near, far]: readonly [string, string]): string {
  const name = joint.replace(/^right_/, `${near}_`).replace(/^left_/, `${far}_`)
  return body === 'partner' ? `partner.${name}` : name
}

/** `partner.working_knee` → the body and `right_knee`. */
export function absolute(point: string): { body: string; joint: string } {
  const body = point.startsWith('partner.') ? 'partner' : 'performer'
  const joint = point
    .replace(/^(partner|performer)\./, '')
    .replace(/^(working|lead|near)_/, 'right_')
    .replace(/^(other|rear|far)_/, 'left_')
  return { body, joint }
}
