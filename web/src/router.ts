import { createRouter, createWebHistory } from 'vue-router'

import { loadSession, session } from './session'

export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: (_to, _from, saved) => saved ?? { top: 0 },
  routes: [
    {
      path: '/sign-in',
      component: () => import('./screens/sign-in/SignIn.vue'),
      meta: { title: 'Sign in', open: true },
    },
    {
      path: '/',
      component: () => import('./screens/next-round/NextRound.vue'),
      meta: { title: 'Next round' },
    },
    {
      path: '/portfolio',
      component: () => import('./screens/portfolio/Portfolio.vue'),
      meta: { title: 'Portfolio' },
    },
    {
      path: '/portfolio/import',
      component: () => import('./screens/portfolio/ImportRegister.vue'),
      meta: { title: 'Import units' },
    },
    {
      path: '/portfolio/new-unit',
      component: () => import('./screens/portfolio/NewUnit.vue'),
      meta: { title: 'Add a unit' },
    },
    {
      path: '/portfolio/new-factor',
      component: () => import('./screens/portfolio/NewFactor.vue'),
      meta: { title: 'Add a site factor' },
    },
    {
      path: '/units/:id',
      component: () => import('./screens/unit/Unit.vue'),
      props: true,
      meta: { title: 'Unit' },
    },
    {
      path: '/units/:id/visit',
      component: () => import('./screens/visit/Visit.vue'),
      props: true,
      meta: { title: 'Record a visit' },
    },
    { path: '/visits', component: () => import('./screens/visit/Visits.vue'), meta: { title: 'Visits' } },
    { path: '/rounds', component: () => import('./screens/rounds/Rounds.vue'), meta: { title: 'Rounds' } },
    {
      path: '/rounds/:id',
      component: () => import('./screens/rounds/Round.vue'),
      props: true,
      meta: { title: 'Round' },
    },
    {
      path: '/:rest(.*)*',
      component: () => import('./screens/Missing.vue'),
      meta: { title: 'Nothing here' },
    },
  ],
})

router.beforeEach(async (to) => {
  if (to.meta.open) return true
  try {
    await loadSession()
  } catch {
    // The screen itself says that the server cannot be reached.
    return true
  }
  return session.value ? true : { path: '/sign-in', query: { to: to.fullPath } }
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title ?? '')} · Next Round`
})
