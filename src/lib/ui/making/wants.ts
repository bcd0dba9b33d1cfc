/** What could be wanted where somebody is: the gestures that fit the thing first, with what its place suggests. */
import type { GestureId, Place } from '#core/edits';
import { interfaceNamed, landingOf, claimantAt, zoneNamed } from '#core/site';
import type { Site } from '#core/site';
import type { Want } from '../../session/index';

/** Every gesture, the most wanted first. */
const ALL: readonly GestureId[] = [
  'network',
  'uplink',
  'publish',
  'leave-as',
  'reservation',
  'second-subnet',
  'management',
  'zone',
  'passage',
  'send',
  'expect',
  'known',
  'record',
  'table',
  'port',
  'box',
  'circuit',
  'switch',
  'router',
  'station',
  'far',
];

const wants = (place: Place, ...ids: readonly GestureId[]): Want[] => ids.map((id) => ({ id, place }));

/** What fits a thing, by its subject. */
export function wantsAt(site: Site, subject: string): Want[] {
  const [kind, ...rest] = subject.split('/');
  const name = rest.join('/');
  switch (kind) {
    case 'interface': {
      const iface = interfaceNamed(site, name);
      if (!iface) return [];
      const place = { interface: name, zone: iface.zone?.name };
      return iface.uplink
        ? [...wants({}, 'publish', 'leave-as'), ...wants({ zone: iface.zone?.name }, 'uplink')]
        : [...wants(place, 'reservation', 'second-subnet', 'publish', 'leave-as', 'passage')];
    }
    case 'zone':
      return zoneNamed(site, name)?.upstream
        ? [...wants({ zone: name }, 'uplink'), ...wants({}, 'publish', 'leave-as')]
        : [...wants({ zone: name }, 'network', 'passage', 'leave-as', 'zone')];
    case 'port':
      return wants(
        { port: name },
        'network',
        'uplink',
        'management',
        ...(site.ports.get(name)?.statement ? [] : (['port'] as const)),
      );
    case 'switch': {
      const plug = site.switches.find((s) => s.name === name)?.plug;
      return plug?.to === 'port' ? wants({ port: plug.port }, 'network', 'station') : wants({}, 'station');
    }
    case 'circuit': {
      const plug = site.circuits.find((c) => c.name === name)?.plug;
      return plug?.to === 'port' ? wants({ port: plug.port }, 'uplink') : [];
    }
    case 'station': {
      const station = site.stations.find((s) => s.name === name);
      const iface = station && claimantAt(site, landingOf(site, station.plug));
      return wants({ interface: iface?.name, label: name }, 'reservation', 'publish');
    }
    case 'table':
    case 'known':
      return wants({}, 'passage', 'leave-as');
    default:
      return [];
  }
}

/** Everything that can be wanted: what fits the thing, then the rest. */
export function allWants(
  site: Site,
  subject: string | undefined,
): { readonly here: Want[]; readonly rest: Want[] } {
  const here = subject === undefined ? [] : wantsAt(site, subject);
  const there = new Set(here.map((w) => w.id));
  return { here, rest: wants({}, ...ALL.filter((id) => !there.has(id))) };
}
