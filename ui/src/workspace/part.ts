import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/**
 * My files: the built-in workspace. A place of its own for those who only work there; for the others, a tab of Content.
 */
const only = () => may('workContent') && !may('writeSchedule')

export default {
  name: 'workspace',
  routes: [
    {
      path: '/my-files',
      component: () => import('./MyFilesPlace.vue'),
      meta: { title: 'My files', place: () => (only() ? 'my-files' : 'content') },
    },
  ],
  places: [{ key: 'my-files', label: 'My files', order: 15, to: '/my-files', show: only }],
  tabs: [
    {
      place: 'content',
      to: '/my-files',
      label: 'My files',
      order: 30,
      show: () => may('workContent') && may('writeSchedule'),
    },
  ],
  commands: [{ title: 'Go to My files', note: 'Place', to: '/my-files', show: () => may('workContent') }],
  stale: {
    files: [['file'], ['folder'], ['libraries']],
    items: [['file'], ['folder']],
    schedule: [['file'], ['folder']],
    sources: [['libraries']],
  },
} satisfies Part
