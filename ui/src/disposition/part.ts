import { defineAsyncComponent } from 'vue'
import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'
import { useDocketCount } from './docketCount'

/** What is due: batches, sign-off, certificates. */
export default {
  name: 'disposition',
  routes: [
    {
      path: '/schedule/docket',
      component: () => import('./DocketPlace.vue'),
      meta: { title: 'Docket', place: 'schedule' },
    },
    {
      path: '/schedule/certificates',
      component: () => import('./CertificatesPlace.vue'),
      meta: { title: 'Certificates', place: 'schedule' },
    },
  ],
  tabs: [
    {
      place: 'schedule',
      to: '/schedule/docket',
      label: 'Docket',
      order: 10,
      show: () => may('readDocket'),
      useBadge: useDocketCount,
      covers: (path) => path === '/schedule/docket' || path === '/schedule/certificates',
    },
  ],
  commands: [
    { title: 'Go to Docket', note: 'Schedule', to: '/schedule/docket', show: () => may('readDocket') },
    { title: 'Go to Certificates', note: 'Schedule', to: '/schedule/certificates', show: () => may('readDocket') },
  ],
  stale: {
    items: [['docket'], ['batch']],
    schedule: [['docket'], ['batch']],
    settings: [['docket'], ['batch']],
    batches: [['docket'], ['batch'], ['certificates'], ['certificate'], ['questions']],
    questions: [['questions'], ['batch']],
  },
  onToday: [{ kind: 'question', component: defineAsyncComponent(() => import('./QuestionsToday.vue')) }],
} satisfies Part
