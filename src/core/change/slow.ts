/**
 * The slow crossing: how a network in use gets another address without anybody there noticing. Leases are made short
 * first, the old address is kept beside the new one until the last long lease is gone, and then it goes.
 */
import { contains, formatIp, isIpv4 } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import {
  applyEdits,
  clausesOf,
  isOfBox,
  parseDocument,
  printStatement,
  rewriteStatement,
} from '#core/notation';
import type { ClauseOp, Statement, StatementOf } from '#core/notation';
import type { Model } from '#core/model';
import { interfaceAt, stationsOf } from '#core/site';
import type { Interface, Site, Wiring } from '#core/site';
import { pairStatements } from './pairs';

/** Lease time while the crossing lasts, seconds. A client renews at half of it (RFC 2131 §4.4.5). */
export const SHORT_LEASE = 300;

export interface SlowStep {
  /** Leases are made short; the new address comes beside the old one; the old one goes. */
  readonly what: 'shorten' | 'beside' | 'release';
  /** The box's text after it. */
  readonly box: string;
  /** How long to wait behind it, seconds: until nobody holds a lease of the kind before. */
  readonly wait: number;
}

export interface SlowCrossing {
  readonly interface: string;
  readonly was: Prefix<Ipv4>;
  readonly now: Prefix<Ipv4>;
  readonly steps: readonly SlowStep[];
  /** Stations whose address is written by hand: no lease moves them. */
  readonly fixed: readonly string[];
  /** Addresses kept for somebody in the old network that the draft keeps in none. */
  readonly reserved: readonly string[];
}

/** Slow crossings for all networks that lend addresses and get another address of their own. */
export function slowCrossings({ site: running, wiring }: Model, draft: Site): SlowCrossing[] {
  const told = (site: Site) => site.statements.filter(isOfBox);
  const pairs = pairStatements(told(running), told(draft));
  return pairs.flatMap(({ was, now }): SlowCrossing[] => {
    if (was?.kind !== 'interface' || now?.kind !== 'interface' || !was.lends.length) return [];
    const [old, next] = [staticOf(was), staticOf(now)];
    const iface = running.interfaces.find((i) => i.statement === was);
    if (!old || !next || !iface || iface.off || now.off || holds(draft, now, old)) return [];
    const longest = Math.max(...was.lends.map((l) => l.seconds));
    const also = `also ${formatIp(old.address)}/${old.length}`;
    const beside: ClauseOp[] = [{ do: 'add', text: also }, ...shortened(now)];
    const steps: SlowStep[] = [
      ...(longest > SHORT_LEASE
        ? [{ what: 'shorten', box: rewritten(told(running), was, shortened(was)), wait: longest } as const]
        : []),
      { what: 'beside', box: rewritten(told(draft), now, beside), wait: SHORT_LEASE },
      { what: 'release', box: rewritten(told(draft), now, []), wait: 0 },
    ];
    return [
      {
        interface: now.name,
        was: old,
        now: next,
        steps,
        fixed: fixedIn(running, wiring, iface, old),
        reserved: was.keeps
          .filter((k) => !now.keeps.some((n) => n.mac === k.mac))
          .map((k) => k.label ?? formatIp(k.address.value)),
      },
    ];
  });
}

function staticOf({ address }: StatementOf<'interface'>): Prefix<Ipv4> | undefined {
  const own = address?.value.by === 'static' ? address.value.prefix : undefined;
  return own && isIpv4(own.address) ? { address: own.address, length: own.length } : undefined;
}

/** Whether an interface of a draft has this address already. */
const holds = (site: Site, statement: Statement, { address }: Prefix<Ipv4>): boolean =>
  !!site.interfaces
    .find((i) => i.statement === statement)
    ?.addresses.some((a) => a.prefix.address === address);

function fixedIn(site: Site, wiring: Wiring, iface: Interface, net: Prefix<Ipv4>): string[] {
  return stationsOf(wiring, iface)
    .filter((s) => !s.off && !s.supposed && s.address && contains(net, s.address.address))
    .filter((s) => interfaceAt(site, s.landing) === iface)
    .map((s) => s.name);
}

/** What makes the leases of a statement short. */
function shortened(statement: StatementOf<'interface'>): ClauseOp[] {
  const lends = clausesOf(statement, 'lends');
  return lends.map(({ words }, nth): ClauseOp => {
    const texts = words.map((w) => w.text);
    const time = texts.indexOf('for');
    const rest = texts.findIndex((t) => t === 'gateway' || t === 'names');
    if (time >= 0) texts[time + 1] = SHORT_TEXT;
    else texts.splice(rest < 0 ? texts.length : rest, 0, 'for', SHORT_TEXT);
    return { do: 'set', name: 'lends', nth, text: texts.join(' ') };
  });
}

const SHORT_TEXT = `${SHORT_LEASE / 60}m`;

/** The box's statements one under another, one of them with clauses changed. */
function rewritten(statements: readonly Statement[], one: Statement, ops: readonly ClauseOp[]): string {
  const lines = statements.map((s) => {
    const text = printStatement(s);
    if (s !== one) return text;
    const document = parseDocument(text, '');
    return applyEdits(text, rewriteStatement(document, document.statements[0]!, ops));
  });
  return `${lines.join('\n')}\n`;
}
