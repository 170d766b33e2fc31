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
  supplier: 'Suppliers',
  incident: 'Incidents',
}
export const entryWords: Record<string, string> = { risk: 'a risk', supplier: 'a supplier', incident: 'an incident' }

/** Where each area has its page. */
export const areaLinks: Record<string, string> = {
  People: '/readiness/areas?kind=people',
  Policies: '/readiness/policies',
  Training: '/readiness/areas?kind=training',
  Risks: '/readiness/areas?kind=risk',
  Suppliers: '/readiness/areas?kind=supplier',
  Changes: '/readiness/areas?kind=change',
  Incidents: '/readiness/areas?kind=incident',
  Access: '/access/mend',
  Connections: '/readiness/connections',
}

export const acknowledgementWords: Record<Schemas['Acknowledgement'], string> = {
  given: '✓ acknowledged',
  asked: '◐ asked',
  overdue: '▲ overdue',
  notAsked: '○ not asked',
}

export const connectionWords: Record<Schemas['ConnectionKind'], string> = {
  hosts: 'machines',
  training: 'training register',
  tickets: 'ticket list',
}

/** What controls and measures are about. */
export const areas = ['access', 'people', 'content', 'operations', 'suppliers', 'change', 'training', 'risk']

/** A fraction as percent, with a place after the point where it is not whole. */
export const percent = (fraction: number | string | null | undefined) =>
  fraction === null || fraction === undefined ? '–' : `${(Number(fraction) * 100).toFixed(1).replace(/\.0$/, '')} %`
