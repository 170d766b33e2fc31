import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('@/today/TodayPlace.vue'), meta: { title: 'Today' } },
    { path: '/content', component: () => import('@/content/ContentPlace.vue'), meta: { title: 'Content' } },
    {
      path: '/content/sensitive',
      component: () => import('@/content/SensitivePlace.vue'),
      meta: { title: 'Sensitive data' },
    },
    { path: '/schedule', component: () => import('@/schedule/SchedulePlace.vue'), meta: { title: 'Schedule' } },
    { path: '/schedule/docket', component: () => import('@/docket/DocketPlace.vue'), meta: { title: 'Docket' } },
    {
      path: '/schedule/certificates',
      component: () => import('@/docket/CertificatesPlace.vue'),
      meta: { title: 'Certificates' },
    },
    {
      path: '/schedule/:id(\\d+)',
      component: () => import('@/schedule/SchedulePlace.vue'),
      meta: { title: 'Schedule' },
    },
    { path: '/schedule/drafts', component: () => import('@/schedule/DraftsPlace.vue'), meta: { title: 'Drafts' } },
    {
      path: '/schedule/blankets',
      component: () => import('@/schedule/BlanketsPlace.vue'),
      meta: { title: 'Blankets' },
    },
    {
      path: '/schedule/authorities',
      component: () => import('@/schedule/AuthoritiesPlace.vue'),
      meta: { title: 'Authorities' },
    },
    { path: '/schedule/events', component: () => import('@/schedule/EventsPlace.vue'), meta: { title: 'Events' } },
    { path: '/schedule/filing', component: () => import('@/schedule/FilingPlace.vue'), meta: { title: 'Filing' } },
    {
      path: '/schedule/spreadsheet',
      component: () => import('@/schedule/SpreadsheetPlace.vue'),
      meta: { title: 'Spreadsheet' },
    },
    { path: '/schedule/health', component: () => import('@/schedule/HealthPlace.vue'), meta: { title: 'Health' } },
    {
      path: '/administration/organisation',
      component: () => import('@/administration/OrganisationPlace.vue'),
      meta: { title: 'Organisation' },
    },
    {
      path: '/administration/messages',
      component: () => import('@/administration/MessagesPlace.vue'),
      meta: { title: 'Messages' },
    },
    { path: '/matters', component: () => import('@/matters/MattersPlace.vue'), meta: { title: 'Matters' } },
    { path: '/matters/:id(\\d+)', component: () => import('@/matters/MattersPlace.vue'), meta: { title: 'Matter' } },
    {
      path: '/notices/:token?',
      component: () => import('@/matters/NoticesPage.vue'),
      meta: { title: 'Notices', open: true },
    },
    { path: '/my-files', component: () => import('@/myfiles/MyFilesPlace.vue'), meta: { title: 'My files' } },
    { path: '/ledger', component: () => import('@/ledger/LedgerPlace.vue'), meta: { title: 'Ledger' } },
    {
      path: '/administration/people',
      component: () => import('@/administration/PeoplePlace.vue'),
      meta: { title: 'People' },
    },
    {
      path: '/administration/sources',
      component: () => import('@/administration/SourcesPlace.vue'),
      meta: { title: 'Sources' },
    },
    { path: '/:rest(.*)*', component: () => import('@/app/NotHere.vue'), meta: { title: 'Not here' } },
  ],
})
router.afterEach((to) => {
  document.title = `${String(to.meta.title ?? '')} · Wide Keel`
})
