/** When something comes back, in words: “in 10 minutes”, “tomorrow”, “in 6 days”. */
export function days(iso: string, now = Date.now()): string {
  const minutes = Math.max(1, Math.round((Date.parse(iso) - now) / 60_000))
  if (minutes < 60) return `in ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}`
  const hours = Math.round(minutes / 60)
  if (hours < 20) return `in ${hours} ${hours === 1 ? 'hour' : 'hours'}`
  const count = Math.max(1, Math.round(hours / 24))
  return count === 1 ? 'tomorrow' : `in ${count} days`
}
