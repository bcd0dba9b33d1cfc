#!/usr/bin/env node
// The command's entry: runs the bundle that `npm run build` makes.
import { existsSync } from 'node:fs';

const bundle = new URL('../build-cli/main.js', import.meta.url);
if (existsSync(bundle)) await import(bundle.href);
else {
  process.stderr.write('jolly-gate is not built yet; run `npm ci && npm run build` first\n');
  process.exitCode = 2;
}
