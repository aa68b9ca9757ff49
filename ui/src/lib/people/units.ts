/** Heights and weights are kept in centimetres and kilograms, and shown in the academy's units. */
export type Units = 'metric' | 'imperial'
const CM_PER_INCH = 2.54
const KG_PER_POUND = 0.45359237

const rounded = (value: number): number => Math.round(value * 10) / 10

export const HEIGHT: Record<Units, string> = { metric: 'cm', imperial: 'in' }
export const WEIGHT: Record<Units, string> = { metric: 'kg', imperial: 'lb' }

export function shownHeight(cm: number | null, units: Units): number | null {
  return cm === null ? null : rounded(units === 'metric' ? cm : cm / CM_PER_INCH)
}
export function keptHeight(shown: number | null, units: Units): number | null {
  return shown === null ? null : rounded(units === 'metric' ? shown : shown * CM_PER_INCH)
}
export function shownWeight(kg: number | null, units: Units): number | null {
  return kg === null ? null : rounded(units === 'metric' ? kg : kg / KG_PER_POUND)
}
export function keptWeight(shown: number | null, units: Units): number | null {
  return shown === null ? null : rounded(units === 'metric' ? shown : shown * KG_PER_POUND)
}

const ADULT = 18

/** Whole years on a day; null where the birth date is not known. */
export function age(born: string | null, on = new Date()): number | null {
  if (!born) return null
  const [year, month, day] = born.split('-').map(Number) as [number, number, number]
  const had = on.getMonth() + 1 > month || (on.getMonth() + 1 === month && on.getDate() >= day)
  return on.getFullYear() - year - (had ? 0 : 1)
}
/** “12, child” or “34”; nothing where the birth date is not known. */
export function ageWords(born: string | null, on = new Date()): string {
  const years = age(born, on)
  return years === null ? '' : years < ADULT ? `${years}, child` : `${years}`
}

/** Words between commas, each once. */
export function words(text: string): string[] {
  return [
    ...new Set(
      text
        .split(',')
        .map((one) => one.trim())
        .filter(Boolean),
    ),
  ]
}
