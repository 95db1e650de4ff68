import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'start', component: () => import('./views/StartView.vue') },
    { path: '/tracks', name: 'tracks', component: () => import('./views/TracksView.vue') },
    { path: '/grid/:track?', name: 'grid', component: () => import('./views/GridView.vue') },
    { path: '/stick', name: 'stick', component: () => import('./views/StickView.vue') },
    { path: '/mix/:mix/order', name: 'order', component: () => import('./views/OrderView.vue') },
    {
      path: '/mix/:mix/transitions/:number(\\d+)?',
      name: 'transitions',
      component: () => import('./views/TransitionsView.vue'),
    },
    {
      path: '/mix/:mix/edits/:number(\\d+)?',
      name: 'edits',
      component: () => import('./views/EditsView.vue'),
    },
    {
      path: '/mix/:mix/layers/:layer?',
      name: 'layers',
      component: () => import('./views/LayersView.vue'),
    },
    { path: '/mix/:mix/render', name: 'render', component: () => import('./views/RenderView.vue') },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./views/NowhereView.vue') },
  ],
})
