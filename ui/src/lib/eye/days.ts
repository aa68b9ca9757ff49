import { say } from './say'

/** When something comes back, in words: “in 10 minutes”, “tomorrow”, “in 6 days”. */
export function days(iso: string, now = Date.now()): string {
  const minutes = Math.max(1, Math.round((Date.parse(iso) - now) / 60_000))
  if (minutes === 1) return say('in 1 minute')
  if (minutes < 60) return say('in {count} minutes', { count: minutes })
  const hours = Math.round(minutes / 60)
  if (hours === 1) return say('in 1 hour')
  if (hours < 20) return say('in {count} hours', { count: hours })
  const count = Math.max(1, Math.round(hours / 24))
  return count === 1 ? say('tomorrow') : say('in {count} days', { count })
}

/** A day as the page’s language writes it, without its year. */
export function dayOf(on: Date): string {
  const { lang } = document.documentElement
  return on.toLocaleDateString(lang === 'en' ? 'en-GB' : lang, { day: 'numeric', month: 'short' })
}
