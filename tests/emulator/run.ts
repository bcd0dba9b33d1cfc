/** `npm run lab:emulator [-- STORY…]`: each story on an emulated machine of its own, one after another; 1 where one fails. */
import { spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';

const STORIES = readdirSync('tests/emulator').flatMap((file) => /^(.*)\.story\.ts$/.exec(file)?.[1] ?? []);
const asked = process.argv.slice(2);
const unknown = asked.filter((name) => !STORIES.includes(name));
if (unknown.length) throw new Error(`no story is called ${unknown.join(', ')}: ${STORIES.join(', ')}`);
for (const name of asked.length ? asked : STORIES) {
  console.log(name);
  const words = ['--import', 'tsx', `tests/emulator/${name}.story.ts`];
  if (spawnSync(process.execPath, words, { stdio: 'inherit' }).status !== 0) process.exitCode = 1;
}
