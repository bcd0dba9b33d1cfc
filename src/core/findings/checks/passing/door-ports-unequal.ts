import { formatServices } from '#core/addr';
import type { ServiceItem } from '#core/addr';
import { changeClauses } from '#core/edits';
import { written } from '#core/notation';
import type { StatementOf } from '#core/notation';
import { pairServices } from '#core/semantics';
import type { Site } from '#core/site';
import { check } from '../../finding';
import type { Mend } from '../../finding';

/** A door whose services outside and inside do not match port by port: nothing is let in. */
export const doorPortsUnequal = check({
  code: 'door-ports-unequal',
  *run({ site }) {
    for (const door of site.doors) {
      const { services, insideServices } = door;
      if (!insideServices || pairServices(services, insideServices)) continue;
      yield {
        statement: door,
        values: { name: door.name, outside: textFor(services), inside: textFor(insideServices) },
        mends: mendsFor(site, door, insideServices),
      };
    }
  },
});

const textFor = (services: readonly ServiceItem[]): string => formatServices(services) || 'any';

/** The same services inside; or as many ports from where the inside ones begin. */
function mendsFor(site: Site, door: StatementOf<'door'>, inside: readonly ServiceItem[]): Mend[] {
  const [words] = written(door).clauses;
  const at = door.inside?.at;
  if (!words || !at) return [];
  const last = words.words.findIndex((w) => w.text === 'on' && w.start > at.end);
  const end = last < 0 ? words.end : words.words[last - 1]!.end;
  const write = (text: string): Mend => ({
    what: 'inside-services',
    values: { services: text || 'the same' },
    changes: changeClauses(site, door, [{ do: 'replace', start: at.end, end, text: text ? ` ${text}` : '' }]),
  });
  const [from, to] = [door.services[0]!, inside[0]!];
  const single = door.services.length === 1 && inside.length === 1;
  if (single && from.kind === 'ports' && to.kind === 'ports' && from.proto === to.proto) {
    const stop = to.first + (from.last - from.first);
    if (stop <= 65535) return [write(formatServices([{ ...to, last: stop }]))];
  }
  return [write('')];
}
