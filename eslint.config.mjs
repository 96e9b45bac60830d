// What the scripts of the two sites must keep to, besides their layout, which is prettier's.
import js from '@eslint/js'
import globals from 'globals'

export default [
  { ignores: ['internal/web/assets/built/**'] },
  js.configs.recommended,
  {
    files: ['internal/web/**/*.js'],
    languageOptions: { globals: globals.browser },
    rules: {
      eqeqeq: 'error',
      'no-var': 'error',
      'prefer-const': 'error',
      'no-implied-eval': 'error',
      'no-eval': 'error',
    },
  },
  { files: ['**/*.mjs'], languageOptions: { globals: globals.node } },
]
