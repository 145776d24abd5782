import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css'
import '../style.css'
import { createApp } from 'vue'
import RemotePage from './RemotePage.vue'

createApp(RemotePage).mount('#app')
