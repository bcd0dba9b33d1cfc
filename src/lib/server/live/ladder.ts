/** The ladder of a live box: what of each uplink the box itself is asked, and what it saw. */
import { familyOf, formatIp } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import type { LiveStage, LiveUplink } from '#core/box';
import { deviceOf } from '#core/linux';
import type { Model } from '#core/model';
import { familiesOf } from '#core/proof';
import type { Interface } from '#core/site';
import { liveStageText } from '#words';

/** A name that leads somewhere, where the text knows none (RFC 2606 §3). */
const SOME_NAME = 'example.com';

/** What is asked of an uplink over one family: its gateway, something beyond, its resolvers, a name. */
function askedOf({ site }: Model, i: Interface, family: Family, name: string | undefined): string[] {
  const way = family === 4 ? i.gateway : i.gateway6;
  const gateway = way.by === 'address' ? formatIp(way.address) : way.by === 'learned' ? 'learned' : '-';
  // Its own resolvers, then the box's, as it asks them itself. A resolver of one family knows names of both.
  const mine = (a: Ip) => familyOf(a) === family;
  const able = (a: Ip) => familiesOf(i).includes(familyOf(a));
  const own = i.names.addresses.filter(able);
  const ofBox = (site.box?.names ?? []).map((n) => n.value).filter(able);
  const names = [...own.map(formatIp), ...(i.names.learned ? ['learned'] : []), ...ofBox.map(formatIp)];
  const beyond = [...i.watch.addresses, ...own, ...ofBox].find(mine);
  const known = site.fars.find((f) => f.name.includes('.') && f.addresses.some((a) => mine(a.value)))?.name;
  return [
    deviceOf(site, i),
    gateway,
    beyond === undefined ? '-' : formatIp(beyond),
    names.join(',') || '-',
    name ?? known ?? SOME_NAME,
    String(family),
  ];
}

/**
 * Climbs the ladder of every uplink and family on the box itself. `ask` carries an order of the hinge and gives what it
 * printed, a line each rung; what it throws is thrown.
 */
export async function climb(
  ask: (words: readonly string[]) => Promise<string>,
  model: Model,
  name?: string,
): Promise<LiveUplink[]> {
  const uplinks = model.site.interfaces.filter((i) => i.uplink);
  return Promise.all(
    uplinks.flatMap((i) =>
      familiesOf(i).map(async (family): Promise<LiveUplink> => {
        const said = await ask(['ladder', ...askedOf(model, i, family, name)]);
        const stages = said
          .split('\n')
          .filter(Boolean)
          .map((line): LiveStage => {
            const [stage = '', result = '', ...rest] = line.split(' ');
            const known = result === 'pass' || result === 'fail' ? result : 'skipped';
            return { stage, result: known, detail: liveStageText(stage, known, rest.join(' ')) };
          });
        return { interface: i.name, family: family === 4 ? 'ipv4' : 'ipv6', stages };
      }),
    ),
  );
}

export const passes = (u: LiveUplink): boolean =>
  u.stages.some((s) => s.result === 'pass') && u.stages.every((s) => s.result !== 'fail');
