import type { Schemas } from '@/shared/api/client'

export const kindWords: Record<string, string> = {
  person: 'person',
  guest: 'guest',
  service: 'service account',
  group: 'group',
  library: 'library',
  share: 'share',
  mailbox: 'mailbox',
  application: 'application',
  consent: 'application with consents',
}

export const decisionWords: Record<Schemas['LineDecision'], string> = {
  open: 'open',
  keep: 'keep',
  remove: 'remove',
  cannotSay: 'cannot say',
}

export const silenceWords: Record<Schemas['SilenceRule'], string> = {
  keep: 'keep it',
  remove: 'remove it',
  advice: 'follow the advice',
}

export const peopleWords: Record<Schemas['ReviewPeople'], string> = {
  everybody: 'everybody',
  guests: 'every guest',
  inactive: 'everybody who did not sign in lately',
}

export const setWords: Record<Schemas['ReviewSet'], string> = {
  sensitivePlaces: 'all sensitive places',
  placesWithLinks: 'all places with a link',
  groupsWithGuests: 'all groups with guests',
  allApplications: 'all applications with consents',
}

export const reviewerWords: Record<Schemas['ReviewerKind'], string> = {
  owner: 'the owners',
  manager: 'the manager of each person',
  self: 'each person themselves',
  named: 'named people',
}

/** The address that asks about an entry. */
export const askFor = (entry: { id: string; kind: string }) => ({
  path: '/access',
  query: ['person', 'guest', 'service'].includes(entry.kind)
    ? { person: entry.id }
    : entry.kind === 'group'
      ? { group: entry.id }
      : { resource: entry.id },
})
