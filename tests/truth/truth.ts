/** `npm run truth [SITES] [SEED]`: many generated sites, asked of bench and reach; the first that differ are shrunk. */
import fc from 'fast-check';
import { EVERYTHING, anySite, compareAtBox, comparePromises, siteFrom } from '#core/testkit';
import type { Disagreement } from '#core/testkit';

const sites = Number(process.argv[2] ?? 20_000);
const seed = Number(process.argv[3] ?? 1);
const FLOWS = 40;
let flows = 0;
let promises = 0;

function ask(
  what: string,
  runs: number,
  shape: fc.Arbitrary<string>,
  differ: (text: string) => Disagreement[],
): boolean {
  const start = Date.now();
  const result = fc.check(
    fc.property(shape, (text) => differ(text).length === 0),
    { numRuns: runs, seed },
  );
  const span = ((Date.now() - start) / 1000).toFixed(0);
  console.log(
    `${what}: ${result.numRuns} sites in ${span} s, ${result.failed ? 'they differ' : 'no disagreement'}`,
  );
  if (!result.failed) return true;
  const text = result.counterexample![0];
  console.log(text);
  for (const d of differ(text)) console.log(d);
  return false;
}

const flowsAgree = ask('flows drawn at random', sites / 2, anySite(EVERYTHING), (text) => {
  flows += FLOWS;
  return compareAtBox(siteFrom(text), text.length, FLOWS);
});
const promisesAgree = ask('promises', sites / 2, anySite({ ...EVERYTHING, promises: 6 }), (text) => {
  const site = siteFrom(text);
  promises += site.expects.length;
  return comparePromises(site);
});
console.log(`${flows} flows and ${promises} promises asked of both`);
process.exitCode = flowsAgree && promisesAgree ? 0 : 1;
