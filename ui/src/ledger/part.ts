import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/** The journal of everything done: a tab of Activity. */
export default {
  name: 'ledger',
  routes: [
    {
      path: '/activity/ledger',
      component: () => import('./LedgerPlace.vue'),
      meta: { title: 'Ledger', place: 'activity' },
    },
  ],
  moved: { '/ledger': '/activity/ledger' },
  tabs: [{ place: 'activity', to: '/activity/ledger', label: 'Ledger', order: 70, show: () => may('readLedger') }],
  commands: [
    { title: 'Go to Ledger', note: 'Activity', to: '/activity/ledger', show: () => may('readLedger') },
    { title: 'Verify the ledger', note: 'Ledger', to: '/activity/ledger?verify=now', show: () => may('verifyLedger') },
  ],
} satisfies Part
