import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Folders of core/src from the ground up; each may import only those before it. */
const order = ['numeric', 'mesh', 'uv', 'select', 'seams', 'jigs', 'unwrap', 'shape', 'pack', 'images', 'measure', 'propose', 'formats', 'job', 'ops'];
/** Ways up the list that are meant: types of the job document in the formats, shortest paths for loops, opening before unwrapping. */
const allowed = { select: ['seams'], formats: ['job'], images: [] };

const layering = order.map((folder, k) => ({
  files: [`core/src/${folder}/**/*.ts`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          ...order
            .slice(k + 1)
            .filter((above) => !(allowed[folder] ?? []).includes(above))
            .map((above) => ({ group: [`../${above}/*`], message: `core/src/${folder} lies below ${above}.` })),
          {
            group: ['node:*', 'react', 'react-dom', 'three', 'three/*', 'dexie', '@mui/*', '@jig-peel/*'],
            message: 'The core has no interface code and no Node-only code.',
          },
        ],
      },
    ],
  },
}));

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      'app/public/**',
      'test-results/**',
      'playwright-report/**',
      'shots/**',
      'core/assembly/**',
      '**/*.generated.ts',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      'no-console': ['error', { allow: ['error'] }],
      'no-undef': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
    },
  },
  { files: ['scripts/**', 'demo/src/main.ts', 'server/src/main.ts', 'cli/**', 'e2e/**'], rules: { 'no-console': 'off' } },
  ...layering,
  { files: ['core/src/context.ts'], rules: { 'no-restricted-imports': 'off' } },
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts', 'core/src/numeric/portable.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        ...['sin', 'cos', 'tan', 'asin', 'acos', 'atan', 'atan2', 'exp', 'expm1', 'log', 'log2', 'log10', 'log1p', 'pow', 'cbrt', 'sinh', 'cosh', 'tanh'].map(
          (property) => ({ object: 'Math', property, message: 'Engines differ in the last bit: take it from numeric/portable.ts.' }),
        ),
      ],
    },
  },
  ...['app', 'batch', 'cli', 'server', 'demo'].map((workspace) => ({
    files: [`${workspace}/src/**/*.{ts,tsx}`],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            ...['app', 'batch', 'cli', 'server', 'demo']
              .filter((other) => other !== workspace && !(other === 'batch' && (workspace === 'cli' || workspace === 'server')))
              .map((other) => ({
                group: [`@jig-peel/${other}`, `**/../${other}/src/**`],
                message: 'Arrows run one way: app, demo → core; cli, server → batch → core.',
              })),
            { group: ['**/core/src/**'], message: 'Use the core by its index, or by a subpath where a small bundle needs it.' },
          ],
        },
      ],
    },
  })),
  {
    files: ['app/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
);
