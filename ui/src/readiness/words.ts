import type { Schemas } from '@/shared/api/client'

export const stateWords: Record<string, string> = {
  ready: '✓ ready',
  partly: '◐ partly',
  notSetUp: '○ not set up',
  notApplicable: '– not applicable',
  answered: 'answered',
  unanswered: '○ unanswered',
}

export const partWords: Record<Schemas['PartKind'], string> = {
  test: 'test',
  routine: 'routine',
  evidence: 'evidence',
}

export const requestWords: Record<Schemas['RequestState'], string> = {
  open: '○ open',
  ready: '◐ ready for review',
  accepted: '✓ accepted',
  returned: '▲ returned',
}

export const registerWords: Record<string, string> = {
  risk: 'Risks',
  policy: 'Policies',
  supplier: 'Suppliers',
  training: 'Training',
  change: 'Changes',
  incident: 'Incidents',
}

/** What controls and measures are about. */
export const areas = ['access', 'people', 'content', 'operations', 'suppliers', 'change', 'training', 'risk']

/** A fraction as percent, with a place after the point where it is not whole. */
export const percent = (fraction: number | string | null | undefined) =>
  fraction === null || fraction === undefined ? '–' : `${(Number(fraction) * 100).toFixed(1).replace(/\.0$/, '')} %`
