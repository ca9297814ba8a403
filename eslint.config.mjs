// @ts-check
import withNuxt from './.nuxt/eslint.config.mjs'
import { saidWhy } from './scripts/said-why.mjs'

// What puts the configuration together expects Node 21 here.
Object.groupBy ??= (items, keyOf) => {
  const groups = Object.create(null)
  for (const item of items) (groups[keyOf(item)] ??= []).push(item)
  return groups
}

export default withNuxt(
  { ignores: ['dist/**', '.output/**', '.data/**', 'docs/**', '.node/**', 'test-results/**', 'playwright-report/**'] },
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      // Statements of one line stay on one line where they read as one thought.
      '@stylistic/max-statements-per-line': 'off',
      '@stylistic/operator-linebreak': 'off',
      '@stylistic/object-curly-newline': 'off',
      '@stylistic/multiline-ternary': 'off',
      '@stylistic/indent-binary-ops': 'off',
      '@stylistic/quote-props': ['error', 'as-needed'],
      // As many as read as one thought; else each has its line.
      'vue/max-attributes-per-line': ['error', { singleline: { max: 5 }, multiline: { max: 1 } }],
      'vue/singleline-html-element-content-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/html-closing-bracket-newline': ['error', { singleline: 'never', multiline: 'always' }],
      'vue/first-attribute-linebreak': ['error', { singleline: 'ignore', multiline: 'below' }],
      'vue/html-self-closing': ['error', { html: { void: 'never' } }],
      // Glyphs are our own constant SVG.
      'vue/no-v-html': 'off',
      'vue/multi-word-component-names': 'off',
    },
  },
  {
    files: ['**/*.ts', '**/*.mjs', '**/*.cjs'],
    rules: {
      '@stylistic/max-len': [
        'error',
        { code: 120, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true, ignoreUrls: true },
      ],
    },
  },
  {
    // Stores of the pages and tests are lists of small functions in one.
    files: ['api', 'control', 'core', 'generator', 'main', 'protocol', 'server', 'simfleet'].map(f => `${f}/**/*.ts`),
    rules: { 'max-lines-per-function': ['error', { max: 60, skipBlankLines: true, skipComments: true }] },
  },
  {
    // Tests and benches know what they have made.
    files: ['api', 'app', 'cli', 'control', 'core', 'demo', 'generator', 'main', 'protocol', 'server', 'simfleet', 'standins']
      .flatMap(f => [`${f}/**/*.ts`, `${f}/**/*.vue`]),
    plugins: { vornak: { rules: { 'said-why': saidWhy } } },
    rules: { 'vornak/said-why': 'error' },
  },
  {
    files: ['app/**/*.ts', 'app/**/*.vue'],
    rules: {
      // What puts in the imports that are not written takes a declaration of the name, anywhere in the file, for one.
      'no-restricted-syntax': [
        'error',
        {
          selector: 'VariableDeclarator[id.name=/^(ref|unref|toRef|computed|reactive|readonly|watch|inject|provide|h)$/]',
          message: 'The function of this name would not be imported.',
        },
      ],
    },
  },
  {
    files: ['tests/**/*.ts'],
    rules: {
      // One that runs alone would leave all others out, unsaid.
      'no-restricted-properties': [
        'error',
        ...['it', 'test', 'describe'].map(object => ({ object, property: 'only', message: 'The others would not run.' })),
      ],
    },
  },
  {
    files: ['**/*.vue'],
    rules: {
      'vue/max-len': [
        'error',
        {
          code: 120,
          template: 120,
          ignoreStrings: true,
          ignoreTemplateLiterals: true,
          ignoreUrls: true,
          ignoreHTMLAttributeValues: true,
          ignoreHTMLTextContents: true,
        },
      ],
    },
  },
  {
    files: ['**/*.cjs'],
    languageOptions: { sourceType: 'commonjs', globals: { module: 'writable', require: 'readonly' } },
  },
)
