import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css'
import './style.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'
import { closeByEscape } from './shared/escape'
import { keepFocus } from './shared/keepFocus'
import { vRadios, vRoving } from './shared/roving'

createApp(App)
  .use(createPinia())
  .use(router)
  .directive('roving', vRoving)
  .directive('radios', vRadios)
  .mount('#app')
keepFocus()
closeByEscape()
