import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css'
import '../style.css'
import { createApp } from 'vue'
import WatchPage from './WatchPage.vue'

createApp(WatchPage).mount('#app')
