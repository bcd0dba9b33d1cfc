// Bundles the command line for Node, so that it starts without a TypeScript loader.
import { defineConfig } from 'vite';

export default defineConfig({
  build: {
    ssr: 'src/cli/main.ts',
    outDir: 'build-cli',
    target: 'node20',
    rollupOptions: { output: { entryFileNames: 'main.js' } },
  },
  ssr: { noExternal: true },
});
