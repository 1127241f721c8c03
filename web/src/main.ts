import '@fontsource-variable/atkinson-hyperlegible-next'
import 'element-plus/es/components/base/style/css'
import 'element-plus/es/components/button/style/css'
import 'element-plus/es/components/checkbox/style/css'
import 'element-plus/es/components/checkbox-group/style/css'
import 'element-plus/es/components/input/style/css'
import 'element-plus/es/components/input-number/style/css'
import 'element-plus/es/components/message/style/css'
import 'element-plus/es/components/option/style/css'
import 'element-plus/es/components/popper/style/css'
import 'element-plus/es/components/select/style/css'
import 'element-plus/es/components/tag/style/css'
import './style/tokens.css'
import './style/base.css'

import { createApp } from 'vue'

import App from './App.vue'
import { keepApplication } from './offline/keep'
import { keepFlushing } from './offline/outbox'
import { router } from './router'

createApp(App).use(router).mount('#app')
router.isReady().then(keepFlushing, keepFlushing)
window.addEventListener('load', keepApplication)
