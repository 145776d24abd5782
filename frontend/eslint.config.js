import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['src/api/*schema.d.ts', 'node_modules'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  { languageOptions: { globals: globals.browser }, rules: { 'vue/multi-word-component-names': 'off' } },
  {
    files: ['tests/*.test.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        {
          object: 'vi',
          property: 'mock',
          message: 'These share their modules: it belongs into tests/mocked.',
        },
      ],
    },
  },
  prettier,
)
