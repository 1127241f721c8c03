import { createRouter, createWebHistory } from 'vue-router'

import { api, ask } from './api/client'
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
      path: '/next-round',
      component: () => import('./screens/next-round/NextRound.vue'),
      meta: { title: 'Next round' },
    },
    {
      path: '/today',
      component: () => import('./screens/today/Today.vue'),
      meta: { title: 'Today' },
    },
    {
      path: '/scan',
      component: () => import('./screens/scan/Scan.vue'),
      meta: { title: 'Find a unit' },
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
      path: '/portfolio/bulk-changes',
      component: () => import('./screens/portfolio/BulkChanges.vue'),
      meta: { title: 'Bulk changes' },
    },
    {
      path: '/sites/:id',
      component: () => import('./screens/site/Site.vue'),
      props: true,
      meta: { title: 'Site' },
    },
    {
      path: '/units/:id/card',
      component: () => import('./screens/unit/UnitCard.vue'),
      props: true,
      meta: { title: 'Card of a unit' },
    },
    {
      path: '/u/:code',
      component: () => import('./screens/first/Label.vue'),
      props: true,
      meta: { title: 'Label' },
    },
    {
      path: '/visits/:id',
      component: () => import('./screens/visit/VisitRecord.vue'),
      props: true,
      meta: { title: 'Visit' },
    },
    { path: '/people', component: () => import('./screens/people/People.vue'), meta: { title: 'People' } },
    {
      path: '/settings',
      component: () => import('./screens/people/Settings.vue'),
      meta: { title: 'Your settings' },
    },
    {
      path: '/house-rules',
      component: () => import('./screens/rules/HouseRules.vue'),
      meta: { title: 'House rules' },
    },
    { path: '/welcome', component: () => import('./screens/first/Welcome.vue'), meta: { title: 'Welcome' } },
    {
      path: '/setup',
      component: () => import('./screens/first/Setup.vue'),
      meta: { title: 'Set up', open: true },
    },
    {
      path: '/join/:token',
      component: () => import('./screens/first/Join.vue'),
      props: true,
      meta: { title: 'Choose a password', open: true },
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
    {
      path: '/units/:id/work',
      component: () => import('./screens/led/LedVisit.vue'),
      props: true,
      meta: { title: 'Visit, step by step' },
    },
    {
      path: '/outbox',
      component: () => import('./screens/outbox/Outbox.vue'),
      meta: { title: 'Kept on this phone' },
    },
    {
      path: '/bench',
      component: () => import('./screens/bench/Bench.vue'),
      meta: { title: 'Bench' },
    },
    {
      path: '/house-rules/practice',
      component: () => import('./screens/rules/Practice.vue'),
      meta: { title: 'Practice' },
    },
    {
      path: '/house-rules/procedures',
      component: () => import('./screens/rules/Procedures.vue'),
      meta: { title: 'Procedures' },
    },
    {
      path: '/stock',
      component: () => import('./screens/stock/Stock.vue'),
      meta: { title: 'Stock and doses' },
    },
    {
      path: '/symptoms',
      component: () => import('./screens/symptoms/Symptoms.vue'),
      meta: { title: 'Symptoms' },
    },
    {
      path: '/looks',
      component: () => import('./screens/evidence/Looks.vue'),
      meta: { title: 'Worth a look' },
    },
    {
      path: '/call-outs',
      component: () => import('./screens/evidence/CallOuts.vue'),
      meta: { title: 'Call-outs' },
    },
    {
      path: '/links',
      component: () => import('./screens/guests/Links.vue'),
      meta: { title: 'Links and mails' },
    },
    {
      path: '/visits/:id/report',
      component: () => import('./screens/report/SiteReport.vue'),
      props: true,
      meta: { title: 'Report to the site' },
    },
    {
      path: '/g/:token',
      component: () => import('./screens/guests/Guest.vue'),
      props: true,
      meta: { title: 'Next Round', open: true },
    },
    {
      path: '/g/:token/units/:unit/work',
      component: () => import('./screens/guests/GuestWork.vue'),
      props: true,
      meta: { title: 'Visit, step by step', open: true },
    },
    {
      path: '/g/:token/sent',
      component: () => import('./screens/guests/GuestSent.vue'),
      props: true,
      meta: { title: 'Returned', open: true },
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
  // A technician's home is the crew's day.
  if (session.value && to.path === '/' && session.value.role === 'technician') return { path: '/today' }
  if (session.value) return true
  try {
    if ((await ask(api.GET('/setup'))).needed) return { path: '/setup' }
  } catch {
    // Then it is not known; signing in will tell.
  }
  return { path: '/sign-in', query: { to: to.fullPath } }
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title ?? '')} · Next Round`
})
