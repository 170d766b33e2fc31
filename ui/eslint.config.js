import { readdirSync } from 'node:fs'
import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

/** Folders in their order: the later may use the earlier, never the other way. A part is used through what it registers. */
const order = [
    'shared',
    'people',
    'ledger',
    'jobs',
    'notifications',
    'content',
    'retention',
    'disposition',
    'matters',
    'workspace',
    'activity',
    'access',
    'readiness',
    'today',
    'app',
]
const unknown = readdirSync(new URL('./src', import.meta.url), { withFileTypes: true })
    .filter((f) => f.isDirectory() && !order.includes(f.name))
    .map((f) => f.name)
if (unknown.length) throw new Error(`Give these folders of src a place in the order of eslint.config.js: ${unknown}`)
const inOrder = order.slice(0, -1).map((folder, i) => ({
    files: [`src/${folder}/**`],
    rules: {
        'no-restricted-imports': [
            'error',
            {
                patterns: order.slice(i + 1).map((later) => ({
                    regex: `(^@/|/)${later}/`,
                    message: `${folder} stands before ${later}: see the order in eslint.config.js.`,
                })),
            },
        ],
    },
}))

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
    ...inOrder,
    prettier,
)
