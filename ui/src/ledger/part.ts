import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/** The journal of everything done. It is a tab of Activity once that part is there; until then it stands by itself. */
export default {
  name: 'ledger',
  routes: [
    { path: '/ledger', component: () => import('./LedgerPlace.vue'), meta: { title: 'Ledger', place: 'ledger' } },
  ],
  places: [{ key: 'ledger', label: 'Ledger', order: 50, to: '/ledger', show: () => may('readLedger') }],
  commands: [
    { title: 'Go to Ledger', note: 'Place', to: '/ledger', show: () => may('readLedger') },
    { title: 'Verify the ledger', note: 'Ledger', to: '/ledger?verify=now', show: () => may('verifyLedger') },
  ],
} satisfies Part
