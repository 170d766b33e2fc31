import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('@/today/TodayPlace.vue'), meta: { title: 'Today' } },
    { path: '/content', component: () => import('@/content/ContentPlace.vue'), meta: { title: 'Content' } },
    { path: '/content/sensitive', component: () => import('@/content/SensitivePlace.vue'), meta: { title: 'Sensitive data' } },
    { path: '/schedule', component: () => import('@/schedule/SchedulePlace.vue'), meta: { title: 'Schedule' } },
    { path: '/schedule/docket', component: () => import('@/docket/DocketPlace.vue'), meta: { title: 'Docket' } },
    { path: '/schedule/certificates', component: () => import('@/docket/CertificatesPlace.vue'), meta: { title: 'Certificates' } },
    { path: '/schedule/:id(\\d+)', component: () => import('@/schedule/SchedulePlace.vue'), meta: { title: 'Schedule' } },
    { path: '/ledger', component: () => import('@/ledger/LedgerPlace.vue'), meta: { title: 'Ledger' } },
    { path: '/administration/people', component: () => import('@/administration/PeoplePlace.vue'), meta: { title: 'People' } },
    { path: '/administration/sources', component: () => import('@/administration/SourcesPlace.vue'), meta: { title: 'Sources' } },
    { path: '/:rest(.*)*', component: () => import('@/app/NotHere.vue'), meta: { title: 'Not here' } },
  ],
})
router.afterEach((to) => {
  document.title = `${String(to.meta.title ?? '')} · Wide Keel`
})
