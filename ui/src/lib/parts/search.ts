/** What can be chosen of many: its value, its name, and other names that find it. */
export interface Item {
  value: string
  label: string
  also?: readonly string[]
}

const plain = (text: string): string => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()

/** The items of which every word of the text is found in a name; those that begin with it come first. */
export function found<T extends Item>(items: readonly T[], text: string): T[] {
  const words = plain(text).split(/\s+/).filter(Boolean)
  const all = items.filter((item) => {
    const names = plain([item.label, ...(item.also ?? [])].join(' '))
    return words.every((word) => names.includes(word))
  })
  const first = words[0] ?? ''
  return all.toSorted((a, b) => Number(plain(b.label).startsWith(first)) - Number(plain(a.label).startsWith(first)))
}
