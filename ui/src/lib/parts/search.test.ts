import { describe, expect, it } from 'vitest'
import { found } from './search'

const items = [
  { value: 'a', label: 'Advancing foot sweep', also: ['foot sweep'] },
  { value: 'b', label: 'Front kick', also: ['snap kick'] },
  { value: 'c', label: 'Löwe front fall' },
]
const values = (text: string) => found(items, text).map((item) => item.value)

describe('finding one of many', () => {
  it('finds by any word of any name, without accents and capitals', () => {
    expect(values('SWEEP')).toEqual(['a'])
    expect(values('snap')).toEqual(['b'])
    expect(values('lowe')).toEqual(['c'])
  })
  it('needs every word, in any order', () => {
    expect(values('kick front')).toEqual(['b'])
    expect(values('kick fall')).toEqual([])
  })
  it('puts what begins with the text first, and shows all for nothing', () => {
    expect(values('front')).toEqual(['b', 'c'])
    expect(values('  ')).toEqual(['a', 'b', 'c'])
  })
})
