import { defineAsyncComponent } from 'vue'
import type { Part } from '@/shared/parts'
import { useHasMatters, useHasOrders } from './own'

/** Disputes and requests, and the notices to their custodians. */
export default {
  name: 'matters',
  routes: [
    {
      path: '/matters/:id(\\d+)?',
      component: () => import('./MattersPlace.vue'),
      meta: { title: 'Matters', place: 'matters' },
    },
    { path: '/notices/:token?', component: () => import('./NoticesPage.vue'), meta: { title: 'Notices', open: true } },
  ],
  places: [
    {
      key: 'matters',
      label: 'Matters',
      order: 40,
      to: '/matters',
      useShow: useHasMatters,
    },
  ],
  commands: [
    { title: 'Go to Matters', note: 'Place', to: '/matters', useShow: useHasMatters },
    { title: 'Go to Notices to me', note: 'Matters', to: '/notices' },
  ],
  stale: {
    items: [['run'], ['sweep-count'], ['release']],
    matters: [['matters'], ['matter'], ['run'], ['custodian-offers'], ['hold-orders'], ['notice-preview'], ['release']],
    notices: [['notices']],
    directory: [['custodian-offers'], ['matter']],
    people: [['matters'], ['matter']],
  },
  itemActs: [
    {
      key: 'pin',
      order: 20,
      useShow: useHasOrders,
      component: defineAsyncComponent(() => import('./PinPanel.vue')),
      label: 'Hold …',
    },
  ],
} satisfies Part
