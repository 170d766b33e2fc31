import '@fontsource-variable/source-sans-3'
import '@fontsource-variable/source-serif-4'
import '@/shared/tokens.css'
import '@/shared/element.css'
import '@/shared/base.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from '@/app/App.vue'
import { allParts } from '@/app/parts'
import { makeRouter } from '@/app/router'
import { applyLook } from '@/shared/look'
import { Problem } from '@/shared/api/client'
import { useDialogFocus } from './shared/focus'
import { useParts } from '@/shared/parts'

applyLook()
useParts(allParts)
useDialogFocus()
const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (failures, error) => !(error instanceof Problem && error.status >= 400) && failures < 2,
      refetchOnWindowFocus: false,
    },
  },
})
createApp(App).use(makeRouter(allParts)).use(VueQueryPlugin, { queryClient: queries }).mount('#app')
