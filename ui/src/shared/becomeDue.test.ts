import { describe, expect, it } from 'vitest'
import { becomeDue } from './consequences'

describe('What a button says of items that become due', () => {
  it('is right for none', () => expect(becomeDue(0)).toBe('none becomes due today'))
  it('is right for one', () => expect(becomeDue(1)).toBe('1 becomes due today'))
  it('is right for many', () => expect(becomeDue(1200)).toBe('1,200 become due today'))
})
