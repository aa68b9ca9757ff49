export type Side = 'right' | 'left'

const SIDED: [RegExp, (side: Side) => string][] = [
  [/\b(working|lead|near)_/g, (side) => `${side} `],
  [/\b(other|rear|far)_/g, (side) => `${side === 'right' ? 'left' : 'right'} `],
]

/** `partner.working_knee` on the right side → “partner’s right knee”. */
export function pointName(name: string, side: Side): string {
  let words = name
  for (const [pattern, word] of SIDED) words = words.replace(pattern, word(side))
  return words.replace('partner.', 'partner’s ').replaceAll('_', ' ')
}

/** “First frame in which the working knee …” → “… the right knee …”. */
export function sided(text: string, side: Side): string {
  const other = side === 'right' ? 'left' : 'right'
  const part = '(?=(knee|foot|heel|toes?|leg|hand|hip|elbow|ankle|calf|shoulder|palm))'
  return text
    .replace(new RegExp(`\\bworking ${part}`, 'g'), `${side} `)
    .replace(new RegExp(`\\bother ${part}`, 'g'), `${other} `)
}

/** Everything that a search may find a technique by, in small letters. */
export function findable(technique: { name: string; aliases: string[]; family: string }): string {
  return [technique.name, ...technique.aliases, technique.family].join(' ').toLowerCase()
}

/** Whether every word of a search begins somewhere in the text. */
export function fits(text: string, search: string): boolean {
  return search
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .every((word) => text.includes(word))
}
