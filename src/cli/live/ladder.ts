/** `live prove` and `live why`: what the running box itself answers. */
import { formatIp, parseIp } from '#core/addr';
import { deviceOf, readTrace } from '#core/linux';
import type { Model } from '#core/model';
import { readServices } from '#core/notation';
import { lookUp } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import type { Interface } from '#core/site';
import { realTraceText, STAGE_NAMES } from '#words';
import type { LiveBox } from '../../lib/server/live/box';
import { climb, passes } from '../../lib/server/live/ladder';
import type { LiveUplink } from '../../lib/server/live/ladder';
import { Unusable, readModel } from '../input';
import type { CommandResult } from '../outcome';
import { modelOfText, open, reaching, told } from './connect';
import type { LiveOptions } from './connect';

/** Refuses a name that could mean something else to whoever resolves it. */
export function checkName(name: string | undefined): void {
  if (name !== undefined && !/^[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?$/.test(name))
    throw new Unusable(`“${name}” is no name to resolve`);
}

/** Climbs the ladder of every uplink on the box itself; a box that is not reached ends the command. */
export const climbOn = (box: LiveBox, model: Model, name?: string): Promise<LiveUplink[]> =>
  climb(async (words) => (await told(box, 'ladder', words)).stages, model, name);

export const ladderLines = (uplinks: readonly LiveUplink[]): string[] =>
  uplinks.flatMap((u) => [
    `uplink ${u.interface}${u.family === 'ipv6' ? ' over IPv6' : ''}`,
    ...u.stages.map(
      (s) =>
        `  ${{ pass: '✓', fail: '✕', skipped: '·' }[s.result]} ${(STAGE_NAMES[s.stage] ?? s.stage).padEnd(10)} ${s.detail}`,
    ),
  ]);

export async function prove(
  name: string,
  files: readonly string[],
  o: LiveOptions & { name?: string },
): Promise<CommandResult> {
  checkName(o.name);
  const box = await open(name, o);
  const model = await modelFor(box, files);
  const uplinks = await climbOn(box, model, o.name);
  return {
    json: { uplinks },
    text: `${ladderLines(uplinks).join('\n')}\n`,
    status: uplinks.some(passes) ? 0 : 1,
  };
}

/** The model of the files, else of what the box runs. */
async function modelFor(box: LiveBox, files: readonly string[]): Promise<Model> {
  if (files.length) return readModel(files);
  const said = await told(box, 'adopt', ['adopt']);
  if (said.text === null)
    throw new Unusable('nothing of ours runs on this box; name the files that speak of it');
  return modelOfText(said.text);
}

export async function why(
  name: string,
  from: string,
  to: string,
  service: string | undefined,
  files: readonly string[],
  o: LiveOptions & { wait: string },
): Promise<CommandResult> {
  if (!/^[1-9]\d{0,2}$/.test(o.wait)) throw new Unusable(`“${o.wait}” is no number of seconds`);
  const read = readServices(service ?? 'ping');
  if (!read) throw new Unusable(`“${service}” is no service; write it as tcp 443 or ping`);
  const item = read[0]!;
  const box = await open(name, o);
  const model = await modelFor(box, files);
  const source = endOf(model, from);
  const target = endOf(model, to);
  const arrival = source.interface;
  if (!arrival)
    throw new Unusable(`${from} is behind no interface of the text, so nothing of it arrives anywhere`);
  const proto =
    item.kind === 'ports'
      ? item.proto === 6
        ? 'tcp'
        : 'udp'
      : item.kind === 'proto'
        ? String(item.proto)
        : item.kind === 'any'
          ? 'any'
          : 'icmp';
  const port = item.kind === 'ports' ? String(item.first) : '-';
  process.stderr.write(
    `waiting ${o.wait} s for a packet from ${from} to ${to} (${service ?? 'ping'}): have it sent now\n`,
  );
  const said = await reaching(box.ssh.target, () =>
    box.order(
      'trace',
      [
        'trace',
        o.wait,
        deviceOf(model.site, arrival),
        proto,
        source.address ?? 'any',
        target.address ?? 'any',
        port,
      ],
      { within: Number(o.wait) + 15 },
    ),
  );
  if (said.heard === 'refusal') throw new Unusable(said.detail);
  const trace = readTrace(said.answer.trace);
  if (!trace)
    return {
      json: { verdict: 'nothing-came' },
      text: `no such packet came in by ${arrival.name} in ${o.wait} s: it was lost before the box, or never sent\n`,
      status: 1,
    };
  const steps = trace.steps.map((s) => `  ${s.chain.padEnd(20)} ${s.statement ?? ''} ${s.verdict}`);
  return {
    json: trace,
    text: `${[realTraceText(trace), ...steps].join('\n')}\n`,
    status: trace.verdict === 'passed' || trace.verdict === 'answered' ? 0 : 1,
  };
}

/** An end of a flow: its address where it is one, and the interface it is behind. */
function endOf(model: Model, text: string): { address?: string; interface?: Interface } {
  const { site, prospects, routes } = model;
  const address = parseIp(text);
  const behind = (a: NonNullable<typeof address>): Interface | undefined => {
    for (const i of site.interfaces) {
      const route = lookUp(routes, i.table, a);
      if (route?.interface !== undefined) return interfaceNamed(site, route.interface);
    }
    return undefined;
  };
  if (address !== undefined) return { address: formatIp(address), interface: behind(address) };
  const iface = interfaceNamed(site, text) ?? site.interfaces.find((i) => i.zone?.name === text && !i.off);
  if (iface) return { interface: iface };
  const station = prospects.stations.get(text)?.address;
  if (station !== undefined) return { address: formatIp(station), interface: behind(station) };
  const far = model.wiring.fars.find((f) => f.name === text)?.addresses[0];
  if (far !== undefined) return { address: formatIp(far), interface: behind(far) };
  const known = site.knowns.find((k) => k.name === text)?.items[0]?.value.range;
  if (known) {
    const one = known.first === known.last ? formatIp(known.first) : undefined;
    return { address: one, interface: behind(known.first) };
  }
  if (text === 'internet' || text === 'any') return { interface: site.interfaces.find((i) => i.uplink) };
  throw new Unusable(`the text knows no ${text}`);
}
