import { createRouter, createWebHistory } from 'vue-router'
import { base } from './shared/at'

export const router = createRouter({
  history: createWebHistory(base || undefined),
  routes: [
    { path: '/', name: 'lessons', component: () => import('./lessons/LessonsScreen.vue') },
    { path: '/first', name: 'first', component: () => import('./first/FirstScreen.vue') },
    { path: '/kit', name: 'kit', component: () => import('./kit/KitScreen.vue') },
    {
      path: '/square-up/:deviceId?',
      name: 'square-up',
      component: () => import('./square-up/SquareUpScreen.vue'),
    },
    { path: '/plates', name: 'plates', component: () => import('./plates/PlatesScreen.vue') },
    { path: '/sound', name: 'sound', component: () => import('./sound/SoundScreen.vue') },
    { path: '/way-in', name: 'way-in', component: () => import('./ways/WaysScreen.vue') },
    { path: '/ready', name: 'ready', component: () => import('./ready/ReadyScreen.vue') },
    { path: '/teach', name: 'teach', component: () => import('./teach/TeachScreen.vue') },
    {
      path: '/outgoing',
      name: 'outgoing',
      component: () => import('./outgoing/OutgoingWindow.vue'),
      meta: { bare: true },
    },
    {
      path: '/clapper',
      name: 'clapper',
      component: () => import('./sound/ClapperWindow.vue'),
      meta: { bare: true },
    },
    {
      path: '/small',
      name: 'small',
      component: () => import('./teach/SmallWindow.vue'),
      meta: { bare: true },
    },
    { path: '/after', name: 'after', component: () => import('./after/AfterScreen.vue') },
    { path: '/privacy', name: 'privacy', component: () => import('./after/PrivacyScreen.vue') },
    { path: '/manual', name: 'manual', component: () => import('./shared/ManualScreen.vue') },
    { path: '/call', name: 'call', component: () => import('./call/CallPage.vue'), meta: { bare: true } },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})
