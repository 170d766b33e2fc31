import type { Part } from '@/shared/parts'
import { useDutyCount } from './dutyCount'

/** What all parts bring together. Any change may end a duty or begin one. */
export default {
  name: 'today',
  routes: [{ path: '/', component: () => import('./TodayPlace.vue'), meta: { title: 'Today', place: 'today' } }],
  moved: { '/today': '/' },
  places: [{ key: 'today', label: 'Today', order: 10, to: '/', useBadge: useDutyCount }],
  commands: [{ title: 'Go to Today', note: 'Place', to: '/' }],
  stale: { '*': [['duties'], ['today']] },
} satisfies Part
