import { defineAsyncComponent } from 'vue'
import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/** Messages to people and other systems, and the calendar feed. */
export default {
  name: 'notifications',
  routes: [
    {
      path: '/set-up/messages',
      component: () => import('./MessagesPlace.vue'),
      meta: { title: 'Messages', place: 'set-up' },
    },
  ],
  moved: { '/administration/messages': '/set-up/messages' },
  tabs: [{ place: 'set-up', to: '/set-up/messages', label: 'Messages', order: 40, show: () => may('manageSettings') }],
  commands: [{ title: 'Go to Messages', note: 'Set-up', to: '/set-up/messages', show: () => may('manageSettings') }],
  profile: [{ order: 10, component: defineAsyncComponent(() => import('./CalendarFeed.vue')) }],
  stale: {
    messages: [['messages'], ['mail-sink'], ['mail-settings'], ['webhooks']],
    'calendar-feed': [['calendar-feed']],
  },
} satisfies Part
