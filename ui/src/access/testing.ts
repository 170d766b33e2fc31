import type { Schemas } from '@/shared/api/client'

/** For tests: a review of the guests of one group, with what a test says otherwise. */
export const reviewSettings = (more: Partial<Schemas['ReviewSettings']> = {}): Schemas['ReviewSettings'] => ({
  name: 'Guests',
  groups: ['Dock'],
  resources: [],
  people: 'guests',
  inactiveDays: 0,
  reviewer: 'owner',
  named: [],
  deputy: '',
  days: 10,
  start: '2026-06-15',
  recurrence: '',
  reasonsRequired: true,
  silence: 'advice',
  applyItself: false,
  words: '',
  reminderWords: '',
  later: [],
  links: false,
  ...more,
})
