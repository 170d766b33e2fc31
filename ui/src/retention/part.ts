import { defineAsyncComponent } from 'vue'
import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

const series = (path: string) => /^\/schedule(\/\d+|\/drafts|\/spreadsheet)?$/.test(path)

/** The retention schedule. */
export default {
  name: 'retention',
  routes: [
    {
      path: '/schedule/:id(\\d+)?',
      component: () => import('./SchedulePlace.vue'),
      meta: { title: 'Series', place: 'schedule' },
    },
    {
      path: '/schedule/drafts',
      component: () => import('./DraftsPlace.vue'),
      meta: { title: 'Drafts', place: 'schedule' },
    },
    {
      path: '/schedule/spreadsheet',
      component: () => import('./SpreadsheetPlace.vue'),
      meta: { title: 'Spreadsheet', place: 'schedule' },
    },
    {
      path: '/schedule/blankets',
      component: () => import('./BlanketsPlace.vue'),
      meta: { title: 'Blankets', place: 'schedule' },
    },
    {
      path: '/schedule/authorities',
      component: () => import('./AuthoritiesPlace.vue'),
      meta: { title: 'Authorities', place: 'schedule' },
    },
    {
      path: '/schedule/events',
      component: () => import('./EventsPlace.vue'),
      meta: { title: 'Events', place: 'schedule' },
    },
    {
      path: '/schedule/filing',
      component: () => import('./FilingPlace.vue'),
      meta: { title: 'Filing', place: 'schedule' },
    },
    {
      path: '/schedule/health',
      component: () => import('./HealthPlace.vue'),
      meta: { title: 'Health', place: 'schedule' },
    },
    {
      path: '/schedule/to-mend',
      component: () => import('./ToMendPlace.vue'),
      meta: { title: 'To mend', place: 'schedule' },
    },
  ],
  places: [{ key: 'schedule', label: 'Schedule', order: 30, to: '/schedule', show: () => may('readSchedule') }],
  tabs: [
    { place: 'schedule', to: '/schedule', label: 'Series', order: 20, covers: series },
    { place: 'schedule', to: '/schedule/blankets', label: 'Blankets', order: 30 },
    { place: 'schedule', to: '/schedule/filing', label: 'Filing', order: 40 },
    { place: 'schedule', to: '/schedule/events', label: 'Events', order: 50 },
    { place: 'schedule', to: '/schedule/authorities', label: 'Authorities', order: 60 },
    {
      place: 'schedule',
      to: '/schedule/health',
      label: 'Health',
      order: 70,
      covers: (path) => path === '/schedule/health' || path === '/schedule/to-mend',
      show: () => may('writeSchedule'),
    },
  ],
  commands: [
    { title: 'Go to Schedule', note: 'Place', to: '/schedule', show: () => may('readSchedule') },
    { title: 'New series', note: 'Schedule', to: '/schedule?new=series', show: () => may('writeSchedule') },
    { title: 'Go to Drafts', note: 'Schedule', to: '/schedule/drafts', show: () => may('writeSchedule') },
    { title: 'Go to Spreadsheet', note: 'Schedule', to: '/schedule/spreadsheet', show: () => may('readSchedule') },
    { title: 'Go to Blankets', note: 'Schedule', to: '/schedule/blankets', show: () => may('readSchedule') },
    { title: 'Go to Filing', note: 'Schedule', to: '/schedule/filing', show: () => may('readSchedule') },
    { title: 'Go to Events', note: 'Schedule', to: '/schedule/events', show: () => may('readSchedule') },
    { title: 'Go to Authorities', note: 'Schedule', to: '/schedule/authorities', show: () => may('readSchedule') },
    { title: 'Go to Health', note: 'Schedule', to: '/schedule/health', show: () => may('writeSchedule') },
    { title: 'Go to To mend', note: 'Schedule', to: '/schedule/to-mend', show: () => may('writeSchedule') },
  ],
  stale: {
    items: [
      ['series'],
      ['health'],
      ['to-mend'],
      ['subject'],
      ['filing-suggestions'],
      ['filing-rules'],
      ['consequences'],
    ],
    schedule: [
      ['series'],
      ['drafts'],
      ['blankets'],
      ['authorities'],
      ['trigger-events'],
      ['trigger-event-types'],
      ['subject'],
      ['filing-rules'],
      ['filing-clashes'],
      ['filing-defaults'],
      ['health'],
      ['to-mend'],
      ['proposals'],
    ],
    filing: [['filing-rules'], ['filing-clashes'], ['filing-defaults'], ['filing-suggestions'], ['health']],
    proposals: [['proposals']],
    settings: [['proposals'], ['series'], ['health'], ['to-mend']],
    people: [['health']],
  },
  onToday: [{ kind: 'proposal', component: defineAsyncComponent(() => import('./ProposalsToday.vue')) }],
  itemActs: [
    {
      key: 'file',
      order: 10,
      show: () => may('fileContent'),
      component: defineAsyncComponent(() => import('./FilingPanel.vue')),
      label: 'File under …',
      primary: true,
    },
  ],
} satisfies Part
