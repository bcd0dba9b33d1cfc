/** What the reach says, in words: services as people read them, promises that fail, differences. */
import { formatServices } from '#core/addr';
import type { ServiceItem, ServiceSet } from '#core/addr';
import type { Because, BecauseCode, Cell, ReachChange, ReachEnd } from '#core/reach';
import { say } from './fill';

/** Ends at which a flow got where it was to go: no promise fails at them. */
type Unsaid = 'box-answers' | 'departed';

/** Why a promise does not hold for all flows. */
export const WHY_TEXTS: { readonly [C in Exclude<BecauseCode, Unsaid>]: (values: Because) => string } = {
  'not-spoken': say('IPv6 is not spoken on {through}'),
  'own-source': say('{source} is an address of the box itself, or nobody’s'),
  'no-route-back': say('no route leads back to {source}, so the box refuses it on {through}'),
  guard: say('guard on {through} refuses the source {source}'),
  'box-silent': say('{through} does not answer {service} to {source}'),
  nowhere: say('{destination} is nobody’s address'),
  'send-never': say('{statement}, line {line}, never sends {source} that way'),
  'no-route': say('no route leads to {destination} in table {table}'),
  dropped: say('{source} to {destination} with {service} is swallowed by {statement}, line {line}'),
  'dropped-default': say('{source} to {destination} with {service}: no passage lets it pass'),
  'dropped-within': say('{source} to {destination}: zone {zones} lets nothing pass within, line {line}'),
  rejected: say('{source} to {destination} with {service} is turned away by {statement}, line {line}'),
  'left-never': say('{statement}, line {line}, says that {source} never goes out that way'),
  'never-sent': say('{source} has no way to {destination}'),
  'no-answer': say('{destination} is reached from {source}, shown as {shown}, but no answer comes back'),
  'not-carried': say('the provider does not carry {shown}, which {source} shows towards {destination}'),
  'not-accepted': say('{target} is reached, but does not take {service}'),
  arrives: say('{source} reaches {destination} with {service}{line? by {statement}, line {line}}'),
  shows: say('{source} is shown as {shown}'),
  'no-source': say('nobody stands for its source'),
  'no-target': say('nobody stands for its target'),
  'no-pair': say('there is no pair to ask'),
};

const isSaid = (code: BecauseCode | undefined): code is keyof typeof WHY_TEXTS =>
  code !== undefined && code in WHY_TEXTS;

/** The sentence for a promise that fails. */
export const whyText = (because: Because): string =>
  isSaid(because.why) ? WHY_TEXTS[because.why](because) : 'it does not';

const WEB = new Set(['6 80', '6 443']);

/** Services in a few words for a cell: `everything`, `web names +3`. */
export function serviceWords(services: ServiceSet, most = 3): string {
  const items = services.toServices();
  if (!items.length) return '';
  if (items[0]!.kind === 'any') return 'everything';
  const words = new Set<string>();
  const single = (i: ServiceItem) =>
    i.kind === 'ports' && i.first === i.last ? `${i.proto} ${i.first}` : '';
  for (const item of items) {
    const key = single(item);
    if (WEB.has(key)) words.add('web');
    else if (key === '6 53' || key === '17 53') words.add('names');
    else words.add(formatServices([item]));
  }
  const list = [...words];
  // What leaves out a few ports is shorter said by what it leaves out.
  const whole = services.toText();
  if (whole.startsWith('any but')) return `everything but ${whole.slice(8)}`;
  return list.length <= most ? list.join(' ') : `${list.slice(0, most).join(' ')} +${list.length - most}`;
}

/** A cell in words. */
export const cellText = (cell: Cell, to?: ReachEnd): string =>
  cell.verdict === 'none'
    ? '·'
    : cell.verdict === 'all'
      ? to?.kind === 'door'
        ? serviceWords(cell.services)
        : 'everything'
      : `${serviceWords(cell.services)}${cell.everywhere.equals(cell.services) ? '' : ', some hosts'}`;

/** An end by its name, with its kind where that is not plain. */
export const endText = (end: ReachEnd): string =>
  end.kind === 'box' ? 'the box' : end.kind === 'door' ? `door ${end.name}` : end.name;

/** A difference of reach in one sentence. */
export function changeOfReachText(change: ReachChange): string {
  const who = change.whole ? '' : 'some of ';
  const services = serviceWords(change.services, 4);
  const what = services === 'everything' ? '' : ` with ${services}`;
  return change.what === 'opened'
    ? `${who}${endText(change.from)} can now reach ${endText(change.to)}${what}`
    : `${who}${endText(change.from)} no longer reaches ${endText(change.to)}${what}`;
}
