import { afterEach, expect, it } from 'vitest'
import { say, speak } from './say'

afterEach(() => speak({}))

it('says a message in the language that was given, with its values', () => {
  expect(say('{number} of {all}', { number: 2, all: 8 })).toBe('2 of 8')
  speak({ '{number} of {all}': '{number} von {all}', Next: '' })
  expect(say('{number} of {all}', { number: 2, all: 8 })).toBe('2 von 8')
  expect(say('Next')).toBe('Next')
  expect(say('{unknown} stays', {})).toBe('{unknown} stays')
})
