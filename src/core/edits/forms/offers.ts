/** What could be put into a slot here: the names that exist, and values that the site suggests, likeliest first. */
import { NAMED_SERVICES, OPTION_NAMES, formatIp } from '#core/addr';
import { ANSWERABLE } from '#core/notation';
import type { Statement } from '#core/notation';
import { freePublic, plausibleValues } from '#core/model';
import type { Model } from '#core/model';
import type { Site } from '#core/site';
import type { Field, Slot } from './form';

/** Services that people ask for by name, with their ports. */
const SERVICES: readonly string[] = [
  ...Object.keys(NAMED_SERVICES),
  'tcp 80 443',
  'tcp 25 465 587',
  'tcp 3389',
  'udp 51820',
  'any',
];

/** Kinds whose names may stand for addresses, by the slot: a passage names no far host. */
const whoNames = (site: Site): string[] => [
  'any',
  ...site.zones.map((z) => z.name),
  ...site.interfaces.map((i) => i.name),
  ...site.knowns.map((k) => k.name),
  ...site.stations.map((s) => s.name),
];

/** Whether a slot is filled by choosing one of what exists, and nothing else can stand in it. */
export const isChosen = (slot: Slot): boolean =>
  !slot.many &&
  (slot.words !== undefined ||
    ['port', 'zone', 'table', 'interface', 'side', 'way', 'socket', 'otherwise'].includes(slot.takes));

/** Texts for a slot of a field; those of a statement lean on what it is and where it stands. */
export function slotOffers(
  model: Model,
  statement: Statement | undefined,
  field: Field,
  slot: Slot,
): string[] {
  const { site } = model;
  const plausible = (clause: string) => (statement ? plausibleValues(model, statement, clause) : []);
  const interfaces = site.interfaces.map((i) => i.name);
  if (slot.words) return [...slot.words];
  if (field.key === 'option' && slot.key === 'what') return Object.keys(OPTION_NAMES);
  const offers = (): readonly string[] => {
    switch (slot.takes) {
      case 'port':
        return [...site.ports.keys()];
      case 'zone':
        return site.zones.map((z) => z.name);
      case 'side':
        return ['any', ...site.zones.map((z) => z.name)];
      case 'table':
        return ['main', ...site.tables.map((t) => t.name)];
      case 'interface':
        return interfaces;
      case 'way':
        return [...site.zones.filter((z) => z.upstream).map((z) => z.name), ...interfaces];
      case 'public':
        return [
          ...freePublic(model).map(formatIp),
          ...site.interfaces.filter((i) => i.uplink).map((i) => i.name),
        ];
      case 'otherwise':
        return ['never', ...interfaces];
      case 'socket':
        return [
          ...site.ports.keys(),
          ...site.switches.flatMap((s) => s.jacks.map((j) => `${s.name}/${j.value.jack}`)),
          // A switch that routes has its legs in itself.
          ...(field.key === 'leg' ? site.switches.map((s) => s.name) : []),
        ];
      case 'tag':
        return plausible('tag');
      case 'who':
        return [
          ...new Set([
            ...whoNames(site),
            ...(statement?.kind === 'expect' ? ['internet', ...site.doors.map((d) => `door ${d.name}`)] : []),
          ]),
        ];
      case 'services':
        return SERVICES;
      case 'answer':
        return ANSWERABLE;
      case 'own':
      case 'range':
      case 'address':
      case 'prefix':
        return plausible(field.key).filter((text) => !text.includes('by '));
      default:
        return [];
    }
  };
  return [...offers()];
}
