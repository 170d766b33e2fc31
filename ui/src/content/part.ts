import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/** Sources, and the items that lie in them. */
export default {
  name: 'content',
  routes: [
    { path: '/content', component: () => import('./ContentPlace.vue'), meta: { title: 'Content', place: 'content' } },
    {
      path: '/content/sensitive',
      component: () => import('./SensitivePlace.vue'),
      meta: { title: 'Sensitive data', place: 'content' },
    },
    {
      path: '/set-up/sources',
      component: () => import('./SourcesPlace.vue'),
      meta: { title: 'Sources', place: 'set-up' },
    },
  ],
  moved: { '/administration/sources': '/set-up/sources' },
  places: [{ key: 'content', label: 'Content', order: 20, to: '/content', show: () => may('readContent') }],
  tabs: [
    { place: 'content', to: '/content', label: 'Items', order: 10, covers: (path) => path === '/content' },
    {
      place: 'content',
      to: '/content/sensitive',
      label: 'Sensitive data',
      order: 20,
      show: () => may('readSensitive'),
    },
    { place: 'set-up', to: '/set-up/sources', label: 'Sources', order: 20, show: () => may('readSources') },
  ],
  commands: [
    { title: 'Go to Content', note: 'Place', to: '/content', show: () => may('readContent') },
    {
      title: 'Show what is under no series',
      note: 'Content',
      to: '/content?unfiled=true',
      show: () => may('readContent'),
    },
    { title: 'Go to Sensitive data', note: 'Content', to: '/content/sensitive', show: () => may('readSensitive') },
    { title: 'Go to Sources', note: 'Set-up', to: '/set-up/sources', show: () => may('readSources') },
  ],
  stale: {
    items: [['items'], ['item'], ['facets'], ['sensitive']],
    schedule: [['items'], ['item'], ['facets']],
    settings: [['items'], ['item'], ['facets']],
    sources: [['sources'], ['exceptions'], ['containers'], ['safekeeping'], ['items'], ['item'], ['facets']],
    copies: [['safekeeping'], ['item']],
    kinds: [['sensitive'], ['item'], ['preview'], ['facets']],
    views: [['views']],
    people: [['containers']],
  },
} satisfies Part
