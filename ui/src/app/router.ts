import { createRouter, createWebHistory, type RouteLocation, type RouteRecordRaw } from 'vue-router'
import type { Part } from '@/shared/parts'

/** The addresses of all parts, former ones too, and one for what is not there. */
export function makeRouter(parts: readonly Part[], history = createWebHistory()) {
  const moved = parts
    .flatMap((p) => Object.entries(p.moved ?? {}))
    .map<RouteRecordRaw>(([from, to]) => ({
      path: from,
      redirect: ({ query, hash }: RouteLocation) => ({ path: to, query, hash }),
    }))
  const router = createRouter({
    history,
    routes: [
      ...parts.flatMap((p) => p.routes ?? []),
      ...moved,
      { path: '/set-up', redirect: '/set-up/profile' },
      { path: '/:rest(.*)*', component: () => import('@/app/NotHere.vue'), meta: { title: 'Not here' } },
    ],
  })
  router.afterEach((to) => {
    document.title = `${String(to.meta.title ?? '')} · Wide Keel`
  })
  return router
}
