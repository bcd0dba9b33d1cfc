/** A box file of what a live box is: its own text where ours runs, else what its tools report, and what was not taken. */
import { readOther } from '#core/box';
import type { LiveState } from '#core/box';
import { readLinuxBox } from '#core/formats/linux';
import { readDrift } from '#core/linux';
import { oneLine, parseDocument } from '#core/notation';
import { buildSite } from '#core/site';
import { driftText, otherText } from '#words';

const word = (x: unknown): string => (typeof x === 'string' ? oneLine(x) : '');

/** The text, and a sentence for each thing that is not in it; `others` are lines of who else configures the box. */
export function boxFileOf(
  state: LiveState,
  others: readonly string[],
): { readonly text: string; readonly left: readonly string[] } {
  const beside = others.map((o) => oneLine(otherText(readOther(o))));
  if (state.text !== null) {
    const site = buildSite([parseDocument(state.text, 'box.gate')]);
    return {
      text: state.text,
      left: [...readDrift(site, state.drifted).map((d) => oneLine(driftText(d))), ...beside],
    };
  }
  const read = readLinuxBox({
    link: JSON.stringify(state.link),
    addr: JSON.stringify(state.addr),
    route: JSON.stringify([...state.route4, ...state.route6]),
    rule: JSON.stringify([...state.rule4, ...state.rule6]),
  });
  if (!read.ok)
    return {
      text: '',
      left: [`the ${read.fault.report} report of the box cannot be read: ${oneLine(read.fault.why)}`],
    };
  const tables = 'nftables' in state.tables ? state.tables.nftables : [];
  const foreign = tables.flatMap((t) => {
    const table = t.table as { family?: unknown; name?: unknown } | undefined;
    return table ? [`nftables ${word(table.family)} ${word(table.name)}: its rules are somebody else’s`] : [];
  });
  return { text: read.value.text, left: [...[...read.value.left, ...foreign].map(oneLine), ...beside] };
}
