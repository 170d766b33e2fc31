import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
    { ignores: ['src/shared/api/schema.d.ts'] },
    js.configs.recommended,
    ...ts.configs.recommended,
    ...vue.configs['flat/recommended'],
    {
        files: ['**/*.vue'],
        languageOptions: { parserOptions: { parser: ts.parser } },
        rules: {
            // The history of one thing, a place, a mark: one word says it.
            'vue/multi-word-component-names': 'off',
            // Optional properties are optional in their types; undefined is their default.
            'vue/require-default-prop': 'off',
            // vue-tsc knows the globals of the browser; ESLint would want them listed.
            'no-undef': 'off',
        },
    },
    { files: ['**/*.ts'], rules: { 'no-undef': 'off' } },
    prettier,
)
