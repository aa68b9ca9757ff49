import type { Rep, RepForm, Technique } from '../../api/client'
import { HEADINGS, OUTCOMES, PARTNERS, PURPOSES, VIEWS } from '../../parts/labels'
import { spoken } from '../../parts/words'

type Said = Omit<RepForm, 'first_frame' | 'last_frame'>
type Library = readonly Pick<Technique, 'id' | 'name' | 'options' | 'layers' | 'starts'>[]

/** How a rep was done, fact by fact in words, what was not said left out. */
export function saidOf(rep: Said, library: Library, student: string, nameOf: (id: string) => string): string[] {
  const technique = library.find((one) => one.id === rep.technique)
  const chosen = (technique?.options ?? []).map((group) => {
    const key = rep.options?.[group.key] ?? group.default
    return group.choices.find((choice) => choice.key === key)?.name
  })
  const told = [
    technique?.name ?? 'no technique',
    rep.student_id && rep.student_id !== student ? `by ${nameOf(rep.student_id)}` : null,
    `${rep.side} side`,
    rep.pace === 'slow' ? 'slow' : 'full pace',
    rep.partner_student_id ? `with ${nameOf(rep.partner_student_id)}` : PARTNERS[rep.partner ?? 'person'],
    HEADINGS[rep.heading ?? 'right'],
    `filmed ${VIEWS[rep.view ?? 'side']}`,
    rep.rung ? `rung: ${spoken(rep.rung)}` : null,
    ...chosen,
    rep.purpose && rep.purpose !== 'attempt' ? PURPOSES[rep.purpose] : null,
    rep.outcome ? OUTCOMES[rep.outcome] : null,
    rep.layer ? `only ${technique?.layers.find((one) => one.id === rep.layer)?.name ?? rep.layer}` : null,
    rep.start ? `from ${technique?.starts.find((one) => one.id === rep.start)?.says ?? rep.start}` : null,
  ]
  return told.filter((one): one is string => !!one)
}

const COMPARED = ['technique', 'side', 'pace', 'partner', 'heading', 'view', 'rung', 'purpose', 'layer'] as const

/** What other reps say otherwise than this one, each by its number: “rep 3: left side”. */
export function differs(rep: Rep, reps: readonly Rep[], library: Library): string {
  const told = reps.flatMap((other, i) => {
    const keys = COMPARED.filter((key) => other.id !== rep.id && (other[key] ?? null) !== (rep[key] ?? null))
    if (keys.length === 0) return []
    const words = keys.map((key) => {
      if (key === 'technique') return library.find((one) => one.id === other.technique)?.name ?? other.technique
      if (key === 'side') return `${other.side} side`
      if (key === 'pace') return other.pace === 'slow' ? 'slow' : 'full pace'
      if (key === 'partner') return PARTNERS[other.partner]
      if (key === 'heading') return HEADINGS[other.heading]
      if (key === 'view') return `filmed ${VIEWS[other.view]}`
      if (key === 'purpose') return PURPOSES[other.purpose]
      if (key === 'rung') return other.rung ? `rung: ${spoken(other.rung)}` : 'no rung'
      return other.layer ? 'one layer only' : 'everything is asked'
    })
    return [`rep ${i + 1}: ${words.join(', ')}`]
  })
  return told.length > 2 ? `${told.slice(0, 2).join('; ')}; and ${told.length - 2} more differ` : told.join('; ')
}
