import { VueQueryPlugin } from '@tanstack/vue-query'
import 'ant-design-vue/dist/reset.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'
import './theme/parts.css'
import './theme/antd.css'
import './theme/tokens.css'

createApp(App).use(createPinia()).use(router).use(VueQueryPlugin).mount('#app')
