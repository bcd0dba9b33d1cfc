/** Where statements speak of a thing by its name: what the name means there decides. */
import { written } from '#core/notation';
import type { ClauseOp, FileChange, Kind, Plug, Ref, Span, Statement, Who } from '#core/notation';
import { kindOf } from '#core/semantics';
import { routingSwitch, zoneNamed } from '#core/site';
import type { Site } from '#core/site';
import { changeClauses, joinChanges } from './change';

/** A place in a statement where a name stands for something. */
interface Mention {
  readonly name: string;
  readonly at: Pick<Span, 'start' | 'end'>;
  /** What it means there. */
  readonly kind: Kind | undefined;
  /** Whether the kind is written before the name. */
  readonly said: boolean;
  /** Whether other kinds could stand there too, so that a name they share needs its kind before it. */
  readonly open: boolean;
}

/** What a name of a line is: a circuit, a switch or a station before a port. */
const lineKind = (site: Site, name: string): Kind =>
  site.circuits.some((c) => c.name === name)
    ? 'circuit'
    : site.switches.some((x) => x.name === name)
      ? 'switch'
      : site.routers.some((x) => x.name === name)
        ? 'router'
        : site.stations.some((x) => x.name === name)
          ? 'station'
          : 'port';

/** Every name in a statement that stands for another thing. */
function mentionsIn(site: Site, s: Statement): Mention[] {
  const out: Mention[] = [];
  const ref = (r: Ref | undefined, kind: Kind, open = false) => {
    if (r && r.name !== 'any') out.push({ name: r.name, at: r.at, kind, said: r.kind !== undefined, open });
  };
  const who = (w: Who | undefined) => {
    if (w?.type === 'suffix') ref(w.interface, 'interface');
    if (w?.type === 'name')
      out.push({ name: w.name, at: w.at, kind: kindOf(site, w), said: w.kind !== undefined, open: true });
  };
  const whos = (list: readonly Who[] | undefined) => list?.forEach(who);
  switch (s.kind) {
    case 'interface':
      ref(s.zone, 'zone');
      ref(s.table, 'table');
      for (const port of s.carrier?.ports ?? []) ref(port, 'port');
      for (const { value } of s.address6) if (value.by === 'from') ref(value.interface, 'interface');
      for (const answer of s.answers) whos(answer.from);
      break;
    case 'table':
      for (const route of s.routes) ref(route.interface, 'interface');
      break;
    case 'known':
      ref(s.behind, 'interface');
      break;
    case 'passage':
      ref(s.from, 'zone');
      ref(s.to, 'zone');
      whos(s.sources);
      whos(s.destinations);
      break;
    case 'leave':
      who(s.who);
      ref(s.via, s.via.kind !== 'interface' && zoneNamed(site, s.via.name) ? 'zone' : 'interface', true);
      break;
    case 'send':
      who(s.who);
      ref(s.by, 'interface');
      if (s.otherwise !== 'never') ref(s.otherwise, 'interface');
      break;
    case 'door':
      if (s.outside && 'interface' in s.outside.value) ref(s.outside.value.interface, 'interface');
      who(s.inside);
      ref(s.on, 'interface');
      whos(s.sources);
      break;
    case 'expect':
      who(s.promise?.from);
      if (s.promise?.says === 'answers-ping') ref(s.promise.interface, 'interface');
      else if (s.promise && s.promise.says !== 'leaves-as') who(s.promise.to);
      for (const line of [...(s.fault?.cut ?? []), ...(s.fault?.dead ?? [])])
        ref(line, lineKind(site, line.name));
      break;
    case 'box':
      for (const uplink of s.lowers.flatMap((l) => l.without)) ref(uplink, 'interface');
      break;
    case 'port':
      for (const port of s.over?.value.ports ?? []) ref(port, 'port');
      break;
    case 'circuit':
    case 'switch':
    case 'station':
      if (s.plug) out.push(plugged(site, s.plug));
      break;
    case 'router':
      for (const { value } of s.legs) out.push(plugged(site, value.plug, true));
      break;
    default:
      break;
  }
  return out;
}

/** The port or switch that a cable ends at; a leg of a router may be a switch's own. */
function plugged(site: Site, plug: Plug, leg = false): Mention {
  const name = plug.to === 'jack' ? plug.switch : plug.port;
  const { start } = plug.at;
  const kind = plug.to === 'jack' || (leg && routingSwitch(site.switches, plug)) ? 'switch' : 'port';
  return { name, at: { start, end: start + name.length }, kind, said: false, open: false };
}

/** What lets one statement speak of another thing of the kind. */
export const redirectOps = (
  site: Site,
  s: Statement,
  kind: Kind,
  from: string,
  to: string,
): Extract<ClauseOp, { do: 'replace' }>[] =>
  mentionsIn(site, s)
    .filter((m) => m.kind === kind && m.name === from)
    .map(({ at, said, open }) => {
      const shared = kind === 'interface' && open && !said && !!zoneNamed(site, to);
      return {
        do: 'replace' as const,
        start: at.end - from.length,
        end: at.end,
        text: shared ? `interface ${to}` : to,
      };
    });

/** Lets every statement that speaks of a thing speak of another of its kind. */
export const redirect = (
  site: Site,
  kind: Kind,
  from: string,
  to: string,
  but: readonly Statement[] = [],
): FileChange[] =>
  joinChanges(
    ...site.statements.flatMap((s) => {
      const ops = but.includes(s) ? [] : redirectOps(site, s, kind, from, to);
      return ops.length ? [changeClauses(site, s, ops, { follow: true })] : [];
    }),
  );

/** Renames a thing, with every place that speaks of it. */
export function rename(site: Site, kind: Kind, from: string, to: string): FileChange[] {
  const own = site.statements.filter((s) => s.subject === `${kind}/${from}`);
  const heads = own.map((s) => {
    const token = written(s).header[0]!;
    // A colon may stand right behind the name.
    return changeClauses(
      site,
      s,
      [
        { do: 'replace', start: token.start, end: token.start + from.length, text: to },
        ...redirectOps(site, s, kind, from, to),
      ],
      { follow: true },
    );
  });
  return joinChanges(...heads, redirect(site, kind, from, to, own));
}
