/** `npm run lab [SITES] [SEED]`: many generated sites, asked of a Linux kernel and of the reach. */
import { siteFrom } from '#core/testkit';
import { compareWithKernel, sitesFor, whyNot } from './lab';

const sites = Number(process.argv[2] ?? 300);
const seed = Number(process.argv[3] ?? 1);
const why = whyNot();
if (why !== undefined) {
  console.log(`the kernel cannot be asked here: ${why}`);
  process.exit(0);
}
const start = Date.now();
let flows = 0;
let tagged = 0;
let again = 0;
let moved = 0;
let once = 0;
let bad = 0;
for (const text of sitesFor(sites, seed)) {
  const asked = compareWithKernel(siteFrom(text));
  flows += asked.flows;
  tagged += asked.tagged;
  again += asked.again;
  moved += asked.moved;
  once += asked.once;
  if (asked.once) console.log(`${asked.once} flows differed once and not again:\n${text}`);
  if (!asked.differ.length) continue;
  bad++;
  console.log(text);
  for (const d of asked.differ) console.log(d);
}
const span = ((Date.now() - start) / 1000).toFixed(0);
console.log(
  `${sites} sites, ${flows} flows, ${tagged} tagged frames, ${again} flows again with an uplink cut (${moved} take another), in ${span} s; ${bad ? `${bad} sites differ` : 'no disagreement'}${once ? `, ${once} flows asked twice` : ''}`,
);
process.exitCode = bad ? 1 : 0;
