import { may } from '@/shared/session'
import type { Part } from '@/shared/parts'

/** Accounts, roles, units, keys, the directory, the organisation itself, and one's own profile. */
export default {
  name: 'people',
  routes: [
    {
      path: '/set-up/organisation',
      component: () => import('./OrganisationPlace.vue'),
      meta: { title: 'Organisation', place: 'set-up' },
    },
    {
      path: '/set-up/people',
      component: () => import('./PeoplePlace.vue'),
      meta: { title: 'People and keys', place: 'set-up' },
    },
    {
      path: '/set-up/directory',
      component: () => import('./DirectoryPlace.vue'),
      meta: { title: 'Directory', place: 'set-up' },
    },
    {
      path: '/set-up/profile',
      component: () => import('./ProfilePlace.vue'),
      meta: { title: 'My profile', place: 'set-up' },
    },
    {
      path: '/invitation/:token',
      component: () => import('./InvitationPage.vue'),
      meta: { title: 'Choose a password', open: true },
    },
  ],
  moved: { '/administration/organisation': '/set-up/organisation', '/administration/people': '/set-up/people' },
  places: [{ key: 'set-up', label: 'Set-up', order: 90, to: '/set-up/profile', inMenu: true }],
  tabs: [
    {
      place: 'set-up',
      to: '/set-up/organisation',
      label: 'Organisation',
      order: 10,
      show: () => may('manageSettings'),
    },
    { place: 'set-up', to: '/set-up/people', label: 'People and keys', order: 30, show: () => may('managePeople') },
    { place: 'set-up', to: '/set-up/directory', label: 'Directory', order: 35, show: () => may('managePeople') },
    { place: 'set-up', to: '/set-up/profile', label: 'My profile', order: 90 },
  ],
  commands: [
    { title: 'Go to People', note: 'Set-up', to: '/set-up/people', show: () => may('managePeople') },
    { title: 'Go to Directory', note: 'Set-up', to: '/set-up/directory', show: () => may('managePeople') },
    { title: 'Go to Organisation', note: 'Set-up', to: '/set-up/organisation', show: () => may('manageSettings') },
    { title: 'Go to My profile', note: 'Set-up', to: '/set-up/profile' },
  ],
  stale: {
    people: [['people'], ['units'], ['api-keys'], ['colleagues']],
    'factor-roles': [['factor-roles']],
    'inner-networks': [['inner-networks']],
    sessions: [['sessions']],
    'one-time-codes': [['one-time-codes']],
    directory: [['directory'], ['directory-groups'], ['directory-sources']],
    settings: [['settings'], ['settings-consequences']],
    encryption: [['settings', 'encryption']],
  },
} satisfies Part
