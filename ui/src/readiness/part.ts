import { may } from '@/shared/session'
import { useHasEvidence } from './mine'
import type { Part } from '@/shared/parts'

const reads = () => may('readReadiness')

/** Whether the organisation is ready for its audits, and where the evidence is. */
export default {
  name: 'readiness',
  routes: [
    {
      path: '/readiness',
      component: () => import('./FrameworksPlace.vue'),
      meta: { title: 'Frameworks', place: 'readiness' },
    },
    {
      path: '/readiness/controls',
      component: () => import('./ControlsPlace.vue'),
      meta: { title: 'Controls', place: 'readiness' },
    },
    {
      path: '/readiness/evidence',
      component: () => import('./EvidencePlace.vue'),
      meta: { title: 'Evidence', place: 'readiness' },
    },
    {
      path: '/readiness/gauges',
      component: () => import('./GaugesPlace.vue'),
      meta: { title: 'Gauges', place: 'readiness' },
    },
    {
      path: '/readiness/areas',
      component: () => import('./AreasPlace.vue'),
      meta: { title: 'Areas', place: 'readiness' },
    },
    {
      path: '/readiness/policies',
      component: () => import('./PoliciesPlace.vue'),
      meta: { title: 'Policies', place: 'readiness' },
    },
    {
      path: '/readiness/connections',
      component: () => import('./ConnectionsPlace.vue'),
      meta: { title: 'Connections', place: 'readiness' },
    },
    { path: '/policy/:token', component: () => import('./PolicyPage.vue'), meta: { title: 'Policy', open: true } },
    {
      path: '/my-evidence',
      component: () => import('./MyEvidence.vue'),
      meta: { title: 'My evidence', place: 'my-evidence' },
    },
    {
      path: '/readiness/audits',
      component: () => import('./AuditsPlace.vue'),
      meta: { title: 'Audits', place: 'readiness' },
    },
    {
      path: '/readiness/assurance',
      component: () => import('./AssuranceSettings.vue'),
      meta: { title: 'Assurance page', place: 'readiness' },
    },
    {
      path: '/assurance/given/:token',
      component: () => import('./GivenPage.vue'),
      meta: { title: 'Documents', open: true, public: true },
    },
    {
      path: '/assurance',
      component: () => import('./AssurancePage.vue'),
      meta: { title: 'Assurance', open: true, public: true },
    },
  ],
  places: [
    { key: 'readiness', label: 'Readiness', order: 70, to: '/readiness', show: () => reads() || may('visitAudits') },
    {
      key: 'my-evidence',
      label: 'My evidence',
      order: 75,
      to: '/my-evidence',
      inMenu: true,
      useShow: useHasEvidence,
    },
  ],
  tabs: [
    {
      place: 'readiness',
      to: '/readiness',
      label: 'Frameworks',
      order: 10,
      covers: (path) => path === '/readiness',
      show: reads,
    },
    { place: 'readiness', to: '/readiness/controls', label: 'Controls', order: 20, show: reads },
    { place: 'readiness', to: '/readiness/evidence', label: 'Evidence', order: 30, show: reads },
    { place: 'readiness', to: '/readiness/gauges', label: 'Gauges', order: 40, show: reads },
    {
      place: 'readiness',
      to: '/readiness/areas',
      label: 'Areas',
      order: 50,
      covers: (path) => ['/readiness/areas', '/readiness/policies', '/readiness/connections'].includes(path),
      show: reads,
    },
    {
      place: 'readiness',
      to: '/readiness/audits',
      label: 'Audits',
      order: 60,
      show: () => reads() || may('visitAudits'),
    },
    { place: 'readiness', to: '/readiness/assurance', label: 'Assurance page', order: 70, show: reads },
  ],
  commands: [
    { title: 'Go to Readiness', note: 'Place', to: '/readiness', show: reads },
    { title: 'Go to Controls', note: 'Readiness', to: '/readiness/controls', show: reads },
    { title: 'Go to Gauges', note: 'Readiness', to: '/readiness/gauges', show: reads },
    { title: 'Go to Policies', note: 'Readiness', to: '/readiness/policies', show: reads },
    { title: 'Go to Connections', note: 'Readiness', to: '/readiness/connections', show: reads },
    { title: 'Go to My evidence', note: 'Readiness', to: '/my-evidence', useShow: useHasEvidence },
    { title: 'Go to Audits', note: 'Readiness', to: '/readiness/audits', show: reads },
  ],
  stale: {
    readiness: [
      ['readiness'],
      ['controls'],
      ['evidence'],
      ['registers'],
      ['areas'],
      ['policies'],
      ['connections'],
      ['audits'],
      ['assurance'],
      ['gauges'],
    ],
  },
} satisfies Part
