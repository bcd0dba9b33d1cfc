/** The demo sites, put into the server's bundle when it is built. */
import box from '../../../demo/box.gate?raw';
import branchBox from '../../../demo/branch/box.gate?raw';
import branchWiring from '../../../demo/branch/wiring.gate?raw';
import wiring from '../../../demo/wiring.gate?raw';

const site = (name: string, boxText: string, wiringText: string) => ({
  name,
  files: [
    { name: 'box.gate', text: boxText },
    { name: 'wiring.gate', text: wiringText },
  ],
});

/** Name and files of Tidewater Kiln. */
export const demoSite = () => site('Tidewater Kiln', box, wiring);

/** Name and files of its drying sheds: aggregated cables, an access point, a router inside, hosts by their suffix. */
export const branchSite = () => site('Saltmarsh sheds', branchBox, branchWiring);
