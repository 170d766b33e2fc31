import { describe, expect, it } from 'vitest'
import { askFor } from './words'

describe('the address that asks about an entry', () => {
  it.each([
    ['person', { person: 'x' }],
    ['guest', { person: 'x' }],
    ['group', { group: 'x' }],
    ['library', { resource: 'x' }],
    ['application', { resource: 'x' }],
  ])('of a %s names it as such', (kind, query) => expect(askFor({ id: 'x', kind }).query).toEqual(query))
})
