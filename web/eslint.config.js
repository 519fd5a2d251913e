import js from '@eslint/js'
import boundaries from 'eslint-plugin-boundaries'
import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

const rooms = ['theme', 'api', 'parts', 'stave']

const leans = (from, on) => ({
  from: { element: { type: from } },
  allow: on.map((type) => ({ to: { element: { type } } })),
})

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...tseslint.configs.strictTypeChecked,
  { languageOptions: { parserOptions: { project: './tsconfig.json', tsconfigRootDir: import.meta.dirname } } },
  {
    files: ['src/**/*.{ts,tsx}'],
    plugins: { boundaries, 'react-hooks': hooks },
    settings: {
      'import/resolver': { node: { extensions: ['.ts', '.tsx', '.d.ts'] } },
      'boundaries/elements': [
        { type: 'place', pattern: 'src/places/*', capture: ['place'] },
        ...rooms.map((room) => ({ type: room, pattern: `src/${room}` })),
        { type: 'gallery', pattern: 'src/gallery' },
        { type: 'app', pattern: 'src/app' },
      ],
    },
    rules: {
      ...hooks.configs.recommended.rules,
      // The same direction as on the server: a place leans on the shared rooms, never on another place's inside.
      'boundaries/dependencies': [
        'error',
        {
          default: 'disallow',
          policies: [
            leans('api', ['api']),
            leans('theme', ['theme']),
            leans('parts', ['parts', 'api', 'theme']),
            leans('stave', ['stave', 'parts', 'api', 'theme']),
            leans('place', rooms),
            {
              from: { element: { type: 'place' } },
              allow: [{ to: { element: { type: 'place', captured: { place: '{{from.element.captured.place}}' } } } }],
            },
            leans('gallery', ['gallery', ...rooms]),
            leans('app', ['app', 'gallery', 'place', ...rooms]),
          ],
        },
      ],
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-confusing-void-expression': ['error', { ignoreArrowShorthand: true }],
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
    },
  },
)
