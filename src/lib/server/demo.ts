/** The demo site, put into the server's bundle when it is built. */
import box from '../../../demo/box.gate?raw';
import wiring from '../../../demo/wiring.gate?raw';

/** Name and files of Tidewater Kiln. */
export const demoSite = () => ({
  name: 'Tidewater Kiln',
  files: [
    { name: 'box.gate', text: box },
    { name: 'wiring.gate', text: wiring },
  ],
});
