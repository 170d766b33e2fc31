import { describe, expect, it } from 'vitest'
import { term } from './span'
import { actionWords } from './words'

describe('A value as a term', () => {
  it('means itself, whatever characters it has', () => {
    expect(term('a "b" *?^\\')).toBe('"a \\"b\\" \\*\\?\\^\\\\"')
  })
})

describe('An action', () => {
  it('is said as a sentence says it', () => expect(actionWords('file.delete')).toBe('deleted'))
  it('that nobody named stands as it is', () => expect(actionWords('door.open')).toBe('door.open'))
  it('that is missing is said to be something', () => expect(actionWords(null)).toBe('did something'))
})
