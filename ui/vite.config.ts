import { fileURLToPath, URL } from 'node:url'
import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue(), Components({ dts: false, dirs: [], resolvers: [ElementPlusResolver({ importStyle: 'css' })] })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    outDir: '../src/WideKeel.Server/wwwroot',
    emptyOutDir: true,
    // The content security policy lets fonts come from our own address only, so nothing is inlined.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 800,
  },
  server: { proxy: { '/api': 'http://127.0.0.1:5000', '/openapi': 'http://127.0.0.1:5000' } },
  // Test files tidy up behind themselves, so they share what takes longest: loading the components.
  test: {
    environment: 'happy-dom',
    isolate: false,
    testTimeout: 30_000,
    server: { deps: { inline: ['element-plus'] } },
  },
})
