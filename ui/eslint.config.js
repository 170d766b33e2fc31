import js from '@eslint/js'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['src/shared/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/essential'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: {
      // The history of one thing, a place, a mark: one word says it.
      'vue/multi-word-component-names': 'off',
      // vue-tsc knows the globals of the browser; ESLint would want them listed.
      'no-undef': 'off',
    },
  },
  { files: ['**/*.ts'], rules: { 'no-undef': 'off' } },
)
