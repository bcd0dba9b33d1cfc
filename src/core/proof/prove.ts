/** The whole proof of a site: it is booted on the bench, then ladders, desks and promises are asked. */
import { formatIp, formatOptionValue, formatPrefix, optionName } from '#core/addr';
import { decodeOption } from '#core/wire';
import { memo } from '#core/base';
import { Bench } from '#core/bench';
import type { BenchOptions } from '#core/bench';
import type { Reach } from '#core/reach';
import { lookUp } from '#core/semantics';
import { failedWhile } from '#core/site';
import { deskLadder, desksOf } from './desks';
import type { DeskLadder } from './desks';
import { familiesOf, uplinkLadder } from './ladder';
import type { UplinkLadder } from './ladder';
import { learnedOn } from './learned';
import type { LearnedSeen } from './learned';
import { extrasFor } from './probes';
import { judge, reckon } from './promises';
import type { PromiseResult } from './promises';

export interface LeaseSeen {
  readonly station: string;
  readonly address: string;
  readonly gateway: string;
  readonly names: readonly string[];
  /** What else the server told, by the name or number of the option. */
  readonly options?: Readonly<Record<string, string>>;
}

/** What a name that rules speak of leads to. */
export interface NameSeen {
  readonly known: string;
  readonly name: string;
  /** Empty where nobody has answered, or nobody is called so. */
  readonly addresses: readonly string[];
  /** The resolver that said so, `record` for the box's own; absent where nobody has answered. */
  readonly by?: string;
}

export interface RouteSeen {
  readonly table: string;
  readonly prefix: string;
  readonly via?: string;
  readonly interface: string;
  readonly origin: 'connected' | 'static' | 'learned';
  readonly active: boolean;
}

export interface Proof {
  readonly uplinks: readonly UplinkLadder[];
  readonly desks: readonly DeskLadder[];
  readonly leases: readonly LeaseSeen[];
  /** What the uplinks got from their providers. */
  readonly learned: readonly LearnedSeen[];
  readonly promises: readonly PromiseResult[];
  readonly routes: readonly RouteSeen[];
  readonly names: readonly NameSeen[];
  /** Frames that no interface took, by where they arrived (`p3 tag 30`). */
  readonly unclaimed: readonly { readonly where: string; readonly frames: number }[];
  /** Something on the bench went on and on, so that it was stopped: what was asked afterwards got no answer. */
  readonly spent: boolean;
}

/** What is done to the bench once it runs. */
export interface Drill {
  /** Ports or circuits whose cables are pulled. */
  readonly cut?: readonly string[];
  /** Circuits behind whose gateway nothing answers. */
  readonly dead?: readonly string[];
}

/** Boots a site on the bench, with its drill done and settled. `wrong` names what a drill speaks of in vain. */
export function bootBench(
  reach: Reach,
  drill: Drill = {},
  options: BenchOptions = {},
): { bench: Bench; wrong: string[] } {
  const extras = extrasFor(reach);
  const probes = [...extras.probes, ...(options.probes ?? [])];
  const bench = new Bench(reach.model, { ...options, probes, fars: extras.fars }).boot();
  const wrong: string[] = [];
  for (const name of drill.cut ?? []) if (!bench.cut(name)) wrong.push(name);
  for (const name of drill.dead ?? []) if (!bench.deaden(name)) wrong.push(name);
  if (drill.cut?.length || drill.dead?.length) bench.settle();
  return { bench, wrong };
}

/** Where the names lead to that rules speak of, as the box of a bench was told. */
const namesOn = ({ site, box }: Bench): NameSeen[] =>
  site.knowns.flatMap((k) =>
    k.dnsNames.map(({ value: name }) => {
      const by = box.names.saidBy.get(name);
      return {
        known: k.name,
        name,
        addresses: (box.names.found.get(name) ?? []).map(formatIp),
        by: by === undefined || by === 'record' ? by : formatIp(by),
      };
    }),
  );

/** The options of a lease by the name or number of each, as they are written. */
const optionsSaid = (others: ReadonlyMap<number, Uint8Array>): Readonly<Record<string, string>> =>
  Object.fromEntries(
    [...others].map(([code, bytes]) => [
      optionName(code),
      formatOptionValue(decodeOption(code, bytes), formatIp),
    ]),
  );

/**
 * Asks a booted bench everything: each uplink, each desk, each promise. The reach is the witness: it says which flows
 * to ask about first, and judges the promises that are left once it is `enough`. A promise about a failure is put to a
 * bench of its own, on which that has failed beside what `drill` did.
 */
export function proveOn(
  bench: Bench,
  witness: Reach,
  enough: () => boolean = () => false,
  drill: Drill = {},
): Proof {
  const { site, box } = bench;
  const uplinks = site.interfaces
    .filter((i) => i.uplink)
    .flatMap((i) => familiesOf(i).map((family) => uplinkLadder(bench, i, family)));
  const desks = desksOf(bench).map(({ station, iface }) => deskLadder(bench, station, iface));
  const failing = new Map<string, { readonly bench: Bench; readonly wrong: readonly string[] }>();
  const promises = site.expects.map((statement): PromiseResult => {
    const late = enough() || bench.scheduler.isSpent;
    const failed = failedWhile(statement);
    if (!failed) return late ? reckon(witness, statement) : judge(bench, statement, witness);
    if (late) return { statement, result: 'fail', code: 'promise-untried', values: {} };
    const fault = {
      cut: [...(drill.cut ?? []), ...failed.cut],
      dead: [...(drill.dead ?? []), ...failed.dead],
    };
    const broken = memo(failing, JSON.stringify(fault), () => bootBench(witness, fault));
    const [line] = broken.wrong;
    return line === undefined
      ? judge(broken.bench, statement, witness)
      : { statement, result: 'fail', code: 'promise-no-line', values: { line } };
  });
  const leases = [...bench.hosts.values()].flatMap((h) =>
    h.dhcp?.lease
      ? [
          {
            station: h.name,
            address: formatIp(h.dhcp.lease.address),
            gateway: h.gateway === undefined ? '' : formatIp(h.gateway),
            names: h.names.map(formatIp),
            ...(h.dhcp.lease.others.size ? { options: optionsSaid(h.dhcp.lease.others) } : {}),
          },
        ]
      : [],
  );
  const all = box.routes();
  const routes = all.flatMap((r): RouteSeen[] => {
    const used = lookUp(
      all.filter((o) => o.prefix.length === r.prefix.length && o.prefix.address === r.prefix.address),
      r.table,
      r.prefix.address,
    );
    return [
      {
        table: r.table,
        prefix: formatPrefix(r.prefix),
        via: r.via === undefined ? undefined : formatIp(r.via),
        interface: r.interface ?? '',
        origin: r.origin,
        active: used === r,
      },
    ];
  });
  const unclaimed = [...box.unclaimed].map(([where, frames]) => ({ where, frames }));
  return {
    uplinks,
    desks,
    leases,
    learned: learnedOn(bench),
    promises,
    routes,
    names: namesOn(bench),
    unclaimed,
    spent: bench.scheduler.isSpent,
  };
}

/** Boots and asks in one. */
export function prove(reach: Reach, drill: Drill = {}, options: BenchOptions = {}): Proof {
  return proveOn(bootBench(reach, drill, options).bench, reach, undefined, drill);
}
