import js from '@eslint/js'
import jsxA11y from 'eslint-plugin-jsx-a11y'
import reactHooks from 'eslint-plugin-react-hooks'
import globals from 'globals'
import tseslint from 'typescript-eslint'

/** Who may import whom, as docs/architecture.md draws it. */
const house = (files, forbidden, why) => ({
  files,
  rules: {
    'no-restricted-imports': [
      'error',
      { patterns: forbidden.map((group) => ({ group: [group], message: why })) },
    ],
  },
})

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  reactHooks.configs.flat.recommended,
  jsxA11y.flatConfigs.recommended,
  {
    languageOptions: { globals: globals.browser },
    rules: {
      'no-restricted-globals': ['error', { name: 'fetch', message: 'only src/api/ may fetch' }],
    },
  },
  {
    rules: {
      'jsx-a11y/no-autofocus': 'off', // a dialog's first field has the focus: WAI-ARIA, dialog pattern
      'jsx-a11y/no-noninteractive-tabindex': ['error', { tags: ['pre'], roles: ['group', 'tabpanel'] }], // they scroll by keys
    },
  },
  { files: ['src/api/**'], rules: { 'no-restricted-globals': 'off' } },
  house(['src/features/**'], ['@/app/*', '@/features/*'], 'no feature imports another'),
  house(
    ['src/charts/**'],
    ['@/app/*', '@/features/*', '@/ui/*', '@/api/client', '@/api/queries', '@/api/events'],
    'charts know format, theme and the types of api',
  ),
  house(
    ['src/ui/**', 'src/format/**'],
    ['@/app/*', '@/features/*', '@/charts/*', '@/api/*'],
    'shared pieces know no domain',
  ),
)
