import { useOwnsSomething } from './owned'
import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

const reads = () => may('readAccess')
const entries = ['people', 'groups', 'places', 'applications'] as const

/** Who reaches what, and whether they still should. */
export default {
  name: 'access',
  routes: [
    { path: '/access', component: () => import('./ReachPlace.vue'), meta: { title: 'Reach', place: 'access' } },
    { path: '/access/mend', component: () => import('./MendPlace.vue'), meta: { title: 'To mend', place: 'access' } },
    {
      path: '/access/reviews',
      component: () => import('./ReviewsPlace.vue'),
      meta: { title: 'Reviews', place: 'access' },
    },
    ...entries.map((kind) => ({
      path: `/access/${kind}`,
      component: () => import('./EntriesPlace.vue'),
      props: { kind },
      meta: { title: kind[0]!.toUpperCase() + kind.slice(1), place: 'access' },
    })),
    { path: '/owned', component: () => import('./OwnedPlace.vue'), meta: { title: 'What I own', place: 'owned' } },
    { path: '/owner/:token', component: () => import('./OwnerPage.vue'), meta: { title: 'Ownership', open: true } },
    { path: '/review/:token', component: () => import('./ReviewerPage.vue'), meta: { title: 'Review', open: true } },
  ],
  places: [
    { key: 'access', label: 'Access', order: 60, to: '/access', show: reads },
    { key: 'owned', label: 'What I own', order: 65, to: '/owned', inMenu: true, useShow: useOwnsSomething },
  ],
  tabs: [
    { place: 'access', to: '/access', label: 'Reach', order: 10, covers: (path) => path === '/access', show: reads },
    { place: 'access', to: '/access/mend', label: 'To mend', order: 20, show: reads },
    { place: 'access', to: '/access/reviews', label: 'Reviews', order: 30, show: reads },
    ...entries.map((kind, i) => ({
      place: 'access',
      to: `/access/${kind}`,
      label: kind[0]!.toUpperCase() + kind.slice(1),
      order: 40 + i,
      show: reads,
    })),
  ],
  commands: [
    { title: 'Go to Access', note: 'Place', to: '/access', show: reads },
    { title: 'Show what is open to anyone', note: 'Access', to: '/access/mend?list=open-to-anyone', show: reads },
    { title: 'Go to What I own', note: 'Access', to: '/owned', useShow: useOwnsSomething },
    { title: 'Go to Reviews of access', note: 'Access', to: '/access/reviews', show: reads },
  ],
  stale: {
    directory: [['reach'], ['ways'], ['entries'], ['mend'], ['owners'], ['owned'], ['gauges']],
    reviews: [['reviews'], ['round'], ['review-consequences'], ['owned']],
  },
} satisfies Part
