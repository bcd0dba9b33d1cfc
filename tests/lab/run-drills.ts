/** `npm run lab:drills [SITES] [SEED]`: how long an outage lasts, on the bench and with a kernel. */
import { drillSites, drillTwice } from './drills';
import { whyNot } from './lab';

const why = whyNot();
if (why !== undefined) {
  console.log(`the kernel cannot be asked here: ${why}`);
  process.exit(0);
}
let bad = 0;
let most = 0;
const sites = drillSites(Number(process.argv[2] ?? 20), Number(process.argv[3] ?? 1));
for (const site of sites) {
  const d = await drillTwice(site);
  const off = Math.abs(d.bench - d.kernel);
  most = Math.max(most, off / d.every);
  if (off > d.every) bad++;
  console.log(
    `${d.what} every ${d.every} s lost ${d.lost}: bench ${d.bench} s, kernel ${d.kernel} s${off > d.every ? '  DIFFER' : ''}`,
  );
}
console.log(
  `${sites.length} drills, ${bad ? `${bad} differ by more than a watch interval` : 'none differs by more than a watch interval'} (at most ${most.toFixed(2)} of one)`,
);
process.exitCode = bad ? 1 : 0;
