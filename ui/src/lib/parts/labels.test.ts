import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { TASKS } from '../jobs/jobs'
import { KINDS } from '../review/state/corrections.svelte'
import * as labels from './labels'

/** The first column of each table of docs/glossary.md, by the heading that it stands under. */
function glossary(): Map<string, string[]> {
  const found = new Map<string, string[]>()
  let heading = ''
  for (const line of readFileSync('../docs/glossary.md', 'utf8').split('\n')) {
    if (line.startsWith('## ')) heading = line.slice(3)
    const cell = /^\| ([^|]+) \|/.exec(line)?.[1]
    if (cell && cell !== 'term' && !cell.startsWith('---')) found.set(heading, [...(found.get(heading) ?? []), cell])
  }
  return found
}

const SECTIONS: Record<string, readonly string[]> = {
  Verdicts: Object.values(labels.VERDICTS),
  'States of a fault': [...Object.values(labels.FAULT_STATES), labels.FIRST_SEEN, labels.MISSED_AGAIN],
  'Decisions on a rung': Object.values(labels.DECISIONS),
  'States of a job': Object.values(labels.JOB_STATES),
  Jobs: Object.values(TASKS),
  'Purpose of a rep': Object.values(labels.PURPOSES),
  'Outcome of a rep': Object.values(labels.OUTCOMES),
  Stance: Object.values(labels.STANCES),
  Partner: Object.values(labels.PARTNERS),
  View: Object.values(labels.VIEWS),
  'Choice of a rep': Object.values(labels.CHOICES),
  Resistance: Object.values(labels.RESISTANCE),
  'Marks of a correction': Object.values(KINDS).map((kind) => kind.name),
}

describe('the glossary', () => {
  const written = glossary()
  it.each(Object.entries(SECTIONS))('explains “%s” with the words of the screens', (heading, words) => {
    expect(words.length).toBeGreaterThan(1)
    expect(written.get(heading)?.toSorted()).toEqual([...words].toSorted())
  })
  it('explains no term twice', () => {
    const terms = written.get('Terms') ?? []
    expect(terms.length).toBeGreaterThan(20)
    expect(new Set(terms).size).toBe(terms.length)
  })
})
