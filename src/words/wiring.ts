/** The wiring sheet as Markdown: to print, and to tick off cable by cable. */
import { markdownRow, markdownRule } from '#core/base';
import type { LegRow, WiringSheet } from '#core/formats/wiring';

/** The tags of a jack: that of untagged frames, and those that travel with one. */
export const jackTagsText = ({
  tag,
  carries,
}: {
  readonly tag?: number;
  readonly carries: readonly number[];
}): string =>
  [tag ?? '', carries.length ? `tagged ${carries.join(' ')}` : ''].filter((t) => t !== '').join(', ');

const table = (heads: readonly string[], rows: readonly (readonly (string | number)[])[]): string[] => [
  markdownRow(heads),
  markdownRule(heads),
  ...rows.map(markdownRow),
];

export const LEG_HEADS = [
  'plugged in at',
  'its address',
  'lends',
  'the box there',
  'who sits there',
] as const;
export const legCells = (l: LegRow): string[] => [
  l.at,
  l.address,
  l.lends,
  l.interface,
  l.stations.join(', '),
];

export function wiringSheetText({ box, ports, switches, routers }: WiringSheet): string {
  const lines = [
    `# Wiring of ${box}`,
    '',
    ...table(
      ['✓', 'port', 'label', 'tag', 'plugged in', 'interface', 'zone', 'addresses'],
      ports.map((p) => [
        p.off ? 'off' : '☐',
        p.port,
        p.label,
        p.tag ?? (p.interface ? 'untagged' : ''),
        p.plugged.join(', '),
        p.interface,
        p.zone,
        p.addresses.join(', '),
      ]),
    ),
    ...switches.flatMap((s) => [
      '',
      `## Switch ${s.name}${s.at ? `, trunk at ${s.at}` : ''}`,
      '',
      ...table(
        ['✓', 'jack', 'tag', 'interface', 'plugged in', 'address', 'MAC'],
        s.jacks.map((j) => ['☐', j.jack, jackTagsText(j), j.interface, j.plugged, j.address, j.mac]),
      ),
    ]),
    ...routers.flatMap((r) => [
      '',
      `## Router ${r.name}${r.gateway ? `, everything else to ${r.gateway}` : ''}`,
      '',
      ...table(LEG_HEADS, r.legs.map(legCells)),
    ]),
  ];
  return `${lines.join('\n')}\n`;
}
