// Circles of imports, of types too: whoever changes one file of a circle has to know them all.
module.exports = {
  forbidden: [
    {
      name: 'no-circle',
      severity: 'error',
      comment: 'These files import one another. Move what they share, often a type, into a file below both.',
      from: {},
      to: { circular: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '\\+types' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.mjs'],
    },
  },
};
