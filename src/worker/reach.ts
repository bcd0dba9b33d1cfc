/** The reach as the views show it: plain data, sentences already made. */
import { formatIp, formatServices } from '#core/addr';
import { textOf } from '#core/edits';
import type { Model } from '#core/model';
import type { Statement } from '#core/notation';
import { Reach, ReachMemory, ReachTable, compareReach, takings } from '#core/reach';
import type { Cell, ReachEnd } from '#core/reach';
import type { Site } from '#core/site';
import { cellText, changeOfReachText, endText, serviceWords } from '#words';
import type { PlaceView, ReachCellView, ReachView, RibbonView } from './protocol';

/** Rows beyond which hosts are left to questions: nobody reads a table of a thousand rows. */
const MOST_HOSTS = 80;
/** Zones beyond which ribbons are drawn for pairs with statements only. */
const MOST_RIBBONS = 400;

const isHost = (e: ReachEnd): boolean => e.kind === 'station' || e.kind === 'known';

/** The ends that the table shows: zones, the internet, the box, doors, and hosts where they are asked for and not too many. */
function shown(ends: readonly ReachEnd[], hosts: boolean): ReachEnd[] {
  const few = hosts && ends.filter(isHost).length <= MOST_HOSTS;
  return ends.filter((e) => e.kind !== 'interface' && (few || !isHost(e)));
}

/** One service of a cell, to ask the bench with. */
const sampleOf = (cell: Cell): string => {
  const items = cell.services.toServices();
  const item = items.find((i) => i.kind === 'ping') ?? items.find((i) => i.kind === 'ports') ?? items[0];
  if (!item || item.kind === 'any') return 'ping';
  return formatServices(item.kind === 'ports' ? [{ ...item, last: item.first }] : [item]);
};

const cellView = (
  table: ReachTable,
  from: number,
  to: number,
  end: ReachEnd,
  cell: Cell,
  was: Cell | undefined,
  placeOf: (s: Statement) => PlaceView,
): ReachCellView => ({
  from,
  to,
  verdict: cell.verdict,
  text: cellText(cell, end),
  was: was && cellText(was, end) !== cellText(cell, end) ? cellText(was, end) : undefined,
  ask: sampleOf(cell),
  services: cell.services.isEmpty ? '' : formatServices(cell.services.toServices()),
  lines: table.statementsOf(cell).map(placeOf),
  leavesAs: cell.leavesAs === undefined ? undefined : formatIp(cell.leavesAs),
});

/** The table of a draft; `before` is that of what the box runs. */
export function reachView(table: ReachTable, before?: ReachTable, hosts = false): ReachView {
  const { site } = table.reach.model;
  const [sources, destinations] = [shown(table.sources, hosts), shown(table.destinations, hosts)];
  const cells: ReachCellView[] = [];
  // One object a statement: what goes to the page is copied, and what is the same is copied once.
  const places = new Map<Statement, PlaceView>();
  const placeOf = (s: Statement): PlaceView => {
    const known = places.get(s);
    if (known) return known;
    const place = { subject: s.subject, file: s.file, line: s.line };
    places.set(s, place);
    return place;
  };
  const knew = new Set([...(before?.sources ?? []), ...(before?.destinations ?? [])].map(keyOf));
  for (const [i, from] of sources.entries())
    for (const [j, to] of destinations.entries()) {
      const cell = table.cell(from, to);
      const was = before && knew.has(keyOf(from)) && knew.has(keyOf(to)) ? before.cell(from, to) : undefined;
      const view = cellView(table, i, j, to, cell, was, placeOf);
      if (cell.verdict !== 'none' || view.was !== undefined) cells.push(view);
    }
  return {
    sources: sources.map((e) => ({ ...e, text: endText(e) })),
    destinations: destinations.map((e) => ({ ...e, text: endText(e) })),
    cells,
    ribbons: ribbonsOf(site, table),
    changes: before ? compareReach(before, table).map(changeOfReachText) : [],
  };
}

const keyOf = (e: ReachEnd): string => `${e.kind} ${e.name}`;

function ribbonsOf(site: Site, table: ReachTable): RibbonView[] {
  const out: RibbonView[] = [];
  const { reach } = table;
  const many = site.zones.length ** 2 > MOST_RIBBONS;
  for (const a of site.zones)
    for (const b of site.zones) {
      const own = reach.follower.policy.rulesBetween(a.name, b.name).length > 0;
      if (a === b && !own) continue;
      const cell =
        many && !own ? undefined : table.cell({ kind: 'zone', name: a.name }, { kind: 'zone', name: b.name });
      const outside =
        cell && b.upstream
          ? table.cell({ kind: 'zone', name: a.name }, { kind: 'internet', name: 'internet' })
          : undefined;
      const statements = own ? takings(reach, a.name, b.name) : [];
      if (!statements.length && (!cell || cell.verdict === 'none')) continue;
      out.push({
        from: a.name,
        to: b.name,
        text: cell && cell.verdict !== 'none' ? cellText(cell) : '',
        leavesAs: outside?.leavesAs === undefined ? undefined : formatIp(outside.leavesAs),
        statements: statements.map(({ rule, services, everywhere, after }) => ({
          subject: rule.statement.subject,
          file: rule.statement.file,
          line: rule.statement.line,
          text: textOf(site, rule.statement),
          verdict: rule.verdict,
          takes: services.isEmpty
            ? ''
            : `${serviceWords(services, 4)}${everywhere ? '' : ', of the hosts it names'}`,
          after: after.map((r) => r.statement.line),
        })),
      });
    }
  return out;
}

/** What another text would change of the reach of this one, in sentences. */
export function reachChanges(before: Model, after: Model, memory = new ReachMemory()): string[] {
  const [was, is] = [before, after].map((model) => new ReachTable(new Reach(model), memory));
  return compareReach(was!, is!).map(changeOfReachText);
}
