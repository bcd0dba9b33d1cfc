/** Follows every name to its statement, and says which lead nowhere or are declared twice. */
import { memo } from '#core/base';
import { NAME_ORDER, nearest } from '#core/notation';
import type { Kind, Ref, Span, Statement, Who } from '#core/notation';
import type { NameProblem, Site } from './types';

/** Kinds that only a wiring file declares. */
const WIRED: readonly Kind[] = ['station', 'far'];

/** The kinds a name in a promise may be of. */
const PROMISED = NAME_ORDER;
/** The kinds that may stand for addresses in a rule. */
const RULED: readonly Kind[] = ['zone', 'interface', 'known', 'station', 'far'];

/** All problems with names, in the order of the statements. `first` holds the statement that a kind and name mean. */
export function checkNames(site: Site, first: ReadonlyMap<string, Statement>): NameProblem[] {
  const out: NameProblem[] = [];
  const named = new Map<Kind, Set<string>>();
  for (const s of first.values()) if ('name' in s) memo(named, s.kind, () => new Set()).add(s.name);
  const has = (kind: Kind, name: string) =>
    kind === 'port' || !!named.get(kind)?.has(name) || (kind === 'table' && name === 'main');
  const namesOf = (kinds: readonly Kind[]) =>
    [...first.values()].flatMap((s) => ('name' in s && s.name && kinds.includes(s.kind) ? [s.name] : []));
  const unknown = (statement: Statement, name: string, kinds: readonly Kind[], at: Span, mild = false) => {
    if (name === '') return;
    const likely = nearest(name, namesOf(kinds));
    out.push({
      code: 'name-unknown',
      statement,
      at,
      values: { name, kinds: listOf(kinds), likely: likely ?? '' },
      proposal: likely,
      mild,
    });
  };
  const ref = (statement: Statement, r: Ref | undefined, kinds: readonly Kind[]) => {
    if (!r || r.name === 'any') return;
    const asked = r.kind ? [r.kind] : kinds;
    if (!asked.some((kind) => has(kind, r.name))) unknown(statement, r.name, asked, r.at);
  };
  const who = (statement: Statement, w: Who | undefined, kinds = RULED, promise = false) => {
    if (w?.type === 'suffix') ref(statement, w.interface, ['interface']);
    if (w?.type !== 'name') return;
    const asked = w.kind ? [w.kind] : kinds;
    if (asked.some((kind) => has(kind, w.name))) return;
    unknown(statement, w.name, asked, w.at, promise && !site.wired && asked.some((k) => WIRED.includes(k)));
  };
  for (const s of site.statements) {
    if ('name' in s && s.name !== '') {
      const other = first.get(s.kind === 'box' ? 'box' : `${s.kind}/${s.name}`);
      if (other && other !== s) {
        out.push({
          code: 'name-twice',
          statement: s,
          at: s.head,
          values: { kind: s.kind, name: s.name, line: String(other.line), file: other.file },
          mild: false,
        });
        continue;
      }
    }
    switch (s.kind) {
      case 'interface':
        ref(s, s.zone, ['zone']);
        ref(s, s.table, ['table']);
        for (const item of s.address6)
          if (item.value.by === 'from') ref(s, item.value.interface, ['interface']);
        for (const answer of s.answers) for (const w of answer.from ?? []) who(s, w);
        break;
      case 'table':
        for (const route of s.routes) ref(s, route.interface, ['interface']);
        break;
      case 'known':
        ref(s, s.behind, ['interface']);
        break;
      case 'passage':
        ref(s, s.from, ['zone']);
        ref(s, s.to, ['zone']);
        for (const w of [...s.sources, ...s.destinations]) who(s, w);
        break;
      case 'leave':
        who(s, s.who);
        ref(s, s.via, ['interface', 'zone']);
        break;
      case 'send':
        who(s, s.who);
        ref(s, s.by, ['interface']);
        if (s.otherwise !== 'never') ref(s, s.otherwise, ['interface']);
        break;
      case 'door':
        if (s.outside && 'interface' in s.outside.value) ref(s, s.outside.value.interface, ['interface']);
        who(s, s.inside);
        ref(s, s.on, ['interface']);
        for (const w of s.sources) who(s, w);
        break;
      case 'expect':
        if (!s.promise) break;
        who(s, s.promise.from, PROMISED, true);
        if (s.promise.says === 'answers-ping') ref(s, s.promise.interface, ['interface']);
        else if (s.promise.says !== 'leaves-as') who(s, s.promise.to, PROMISED, true);
        break;
      case 'circuit':
      case 'switch':
      case 'station':
        if (s.plug?.to === 'jack') ref(s, { name: s.plug.switch, at: s.plug.at }, ['switch']);
        break;
      case 'router':
        for (const { plug } of s.legs.map((l) => l.value))
          if (plug.to === 'jack') ref(s, { name: plug.switch, at: plug.at }, ['switch']);
        break;
      case 'box':
        for (const uplink of s.lowers.flatMap((l) => l.without)) ref(s, uplink, ['interface']);
        break;
      case 'record':
      case 'port':
      case 'zone':
      case 'far':
        break;
    }
  }
  return out;
}

const listOf = (kinds: readonly Kind[]): string =>
  kinds.length === 1 ? kinds[0]! : `${kinds.slice(0, -1).join(', ')} or ${kinds[kinds.length - 1]}`;
