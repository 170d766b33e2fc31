import { defineAsyncComponent } from 'vue'
import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/** Long work, in the tray of the masthead. */
export default {
  name: 'jobs',
  tools: [{ order: 10, show: () => may('readJobs'), component: defineAsyncComponent(() => import('./JobTray.vue')) }],
} satisfies Part
