import type { Schemas } from '../api/client'

export type Item = Schemas['ItemOut']

/** What an item is, in a word or two. */
export const KINDS: Record<Item['kind'], string> = {
  answer: 'Answer on a sheet',
  question: 'Question',
  pain: 'Pain',
  clip: 'Clip sent',
  opened: 'Link opened',
  consent: 'Consent',
  forget: 'Asks to be deleted',
}

/** Whether an item waits for words, not only for being seen. */
export const wantsReply = (item: Item): boolean =>
  (item.kind === 'question' || item.kind === 'pain' || item.kind === 'clip') && item.words !== '' && item.reply === ''

/** What there is to read of an item. */
export function text(item: Item): string {
  if (item.kind === 'opened')
    return item.clip ? `opened the sheet of ${item.clip}` : 'opened the page for the first time'
  if (item.kind === 'forget') return item.words || 'asks that everything about them is deleted'
  if (item.kind === 'clip' && !item.words) return item.clip
  return item.words
}
