/** What of a live box is not as it was told, read from the lines of its hinge and put in the terms of its text. */
import { memo } from '#core/base';
import type { Site } from '#core/site';
import { deviceOf } from './numbers';

/** `added`: there and not told; `lost`: told and not there; `changed`: another value than was told. */
export type Drift =
  | {
      readonly what: 'address' | 'link' | 'up' | 'generation';
      readonly how: 'added' | 'lost';
      /** The interface of the text; absent for a device that the text does not speak of. */
      readonly interface?: string;
      readonly device: string;
      /** With `address`: with its length. */
      readonly value?: string;
    }
  | {
      readonly what: 'route' | 'rule' | 'foreign-route' | 'filter';
      readonly how: 'added' | 'lost';
      readonly interface?: string;
      /** As the box's own tools print it. */
      readonly value: string;
    }
  | {
      /** The keeper of the box, or a server that was started by it; a table of somebody else that may refuse. */
      readonly what: 'keeper' | 'daemon' | 'judge';
      readonly how: 'added' | 'lost';
      readonly interface?: undefined;
      /** With `daemon` its name, with `judge` the table and its hooks. */
      readonly value: string;
    }
  | {
      readonly what: 'mtu' | 'setting' | 'mac' | 'master';
      readonly how: 'changed';
      readonly interface?: string;
      readonly device: string;
      readonly is: string;
      readonly told: string;
    };

const byDevice = new WeakMap<Site, ReadonlyMap<string, string>>();
/** The interface of the text that a device is; undefined for one that it does not speak of. */
export const interfaceOfDevice = (site: Site, device: string): string | undefined =>
  memo(byDevice, site, () => new Map(site.interfaces.map((i) => [deviceOf(site, i), i.name]))).get(device);

/** Reads the lines; what is none of them is left out. */
export function readDrift(site: Site, lines: string): Drift[] {
  const named = (device: string | undefined) =>
    device === undefined ? undefined : interfaceOfDevice(site, device);
  return lines.split('\n').flatMap((line): Drift[] => {
    const [sign = '', what = '', ...rest] = line.trim().split(/ +/);
    const how = sign === '+' ? 'added' : 'lost';
    const value = rest.join(' ');
    const [device = ''] = rest;
    switch (what) {
      case 'address':
        return [{ what, how, device, interface: named(device), value: rest[1] ?? '' }];
      case 'link':
      case 'up':
      case 'generation':
        return [{ what, how, device, interface: named(device) }];
      case 'route':
      case 'foreign-route':
      case 'rule': {
        const text = rest.slice(1).join(' ');
        return [{ what, how, value: text, interface: named(/ dev (\S+)/.exec(text)?.[1]) }];
      }
      case 'rules':
        return [{ what: 'filter', how, value }];
      case 'keeper':
      case 'daemon':
      case 'judge':
        return [{ what, how, value }];
      case 'mtu':
      case 'mac':
      case 'master':
      case 'setting':
        return [
          {
            what,
            how: 'changed',
            device,
            interface: named(device),
            is: rest[1] ?? '',
            told: rest.slice(2).join(' '),
          },
        ];
      default:
        return [];
    }
  });
}
