import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/** The logs of every system. */
export default {
  name: 'activity',
  routes: [
    { path: '/activity', component: () => import('./BoardsPlace.vue'), meta: { title: 'Activity', place: 'activity' } },
    {
      path: '/activity/search',
      component: () => import('./SearchPlace.vue'),
      meta: { title: 'Search in activity', place: 'activity' },
    },
    {
      path: '/activity/sign-ins',
      component: () => import('./SignInsPlace.vue'),
      meta: { title: 'Sign-ins', place: 'activity' },
    },
    {
      path: '/activity/alerts',
      component: () => import('./AlertsPlace.vue'),
      meta: { title: 'Alerts', place: 'activity' },
    },
    {
      path: '/activity/watches',
      component: () => import('./WatchesPlace.vue'),
      meta: { title: 'Watches', place: 'activity' },
    },
    { path: '/activity/sql', component: () => import('./SqlPlace.vue'), meta: { title: 'SQL', place: 'activity' } },
    {
      path: '/activity/thread',
      component: () => import('./ThreadPlace.vue'),
      meta: { title: 'Thread', place: 'activity' },
    },
    {
      path: '/set-up/channels',
      component: () => import('./ChannelsPlace.vue'),
      meta: { title: 'Channels', place: 'set-up' },
    },
  ],
  places: [
    {
      key: 'activity',
      label: 'Activity',
      order: 50,
      to: '/activity',
      show: () => may('readActivity') || may('readLedger'),
    },
  ],
  tabs: [
    {
      place: 'activity',
      to: '/activity',
      label: 'Overview',
      order: 10,
      covers: (path) => path === '/activity',
      show: () => may('readActivity'),
    },
    {
      place: 'activity',
      to: '/activity/search',
      label: 'Search',
      order: 20,
      covers: (path) => path === '/activity/search' || path === '/activity/thread',
      show: () => may('readActivity'),
    },
    { place: 'activity', to: '/activity/sign-ins', label: 'Sign-ins', order: 30, show: () => may('readActivity') },
    { place: 'activity', to: '/activity/alerts', label: 'Alerts', order: 40, show: () => may('readActivity') },
    { place: 'activity', to: '/activity/watches', label: 'Watches', order: 50, show: () => may('readActivity') },
    { place: 'activity', to: '/activity/sql', label: 'SQL', order: 60, show: () => may('readActivity') },
    { place: 'set-up', to: '/set-up/channels', label: 'Channels', order: 25, show: () => may('manageChannels') },
  ],
  commands: [
    { title: 'Go to Activity', note: 'Place', to: '/activity', show: () => may('readActivity') },
    { title: 'Search in activity', note: 'Activity', to: '/activity/search', show: () => may('readActivity') },
    {
      title: 'Show what was deleted',
      note: 'Activity',
      to: '/activity/search?cql=action%20%3D%20file.delete',
      show: () => may('readActivity'),
    },
    { title: 'Go to Sign-ins', note: 'Activity', to: '/activity/sign-ins', show: () => may('readActivity') },
    { title: 'Go to Alerts', note: 'Activity', to: '/activity/alerts', show: () => may('readActivity') },
    { title: 'Go to Watches', note: 'Activity', to: '/activity/watches', show: () => may('readActivity') },
    { title: 'Go to Investigations', note: 'Activity', to: '/activity/thread', show: () => may('readActivity') },
    { title: 'Ask in SQL', note: 'Activity', to: '/activity/sql', show: () => may('readActivity') },
    { title: 'Go to Channels', note: 'Set-up', to: '/set-up/channels', show: () => may('manageChannels') },
  ],
  stale: {
    activity: [['events'], ['event'], ['boards'], ['sign-ins'], ['channels']],
    channels: [['channels'], ['rejected'], ['events'], ['boards']],
    watches: [['watches'], ['alerts'], ['alert'], ['alert-weights'], ['action-severities']],
    statements: [['statements']],
    'sign-in-codes': [['sign-ins'], ['event']],
    investigations: [['investigations']],
  },
} satisfies Part
