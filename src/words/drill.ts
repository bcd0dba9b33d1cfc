/** Drills and the what-if board in words. */
import { MOST_SECONDS } from '#core/proof/drills';
import type {
  Bearer,
  DrillAct,
  DrillFault,
  DrillRun,
  Fault,
  Noticed,
  Outage,
  Outcome,
} from '#core/proof/drills';
import { END_TEXTS } from './proof';
import type { Ending } from '#core/proof';

/** Seconds with one decimal where there is one: `12 s`, `0.4 s`. */
export const secondsText = (ms: number): string => `${Math.round(ms / 100) / 10} s`;

/** Who bears a fault: a desk by its name, a door as one. */
export const bearerText = ({ kind, name }: Bearer): string => (kind === 'door' ? `door ${name}` : name);

const DEEDS: { readonly [D in DrillAct['what']]: (act: DrillAct) => string } = {
  cut: ({ on }) => `cut ${on}`,
  deaden: ({ on }) => `${on} dead behind its gateway`,
  restore: ({ on }) => `${on} as it was`,
  replug: ({ on }) => `${on} out for 3 s`,
  slow: ({ on, by = 0 }) => `${on} slow, ${by} ms one way`,
  lossy: ({ on, by = 0 }) => `${on} loses ${by} %`,
  renumber: ({ on }) => `${on} delegates another IPv6 prefix`,
};

/** What is done to a line. */
export const deedText = (act: DrillAct): string => DEEDS[act.what](act);

const BECAUSE: { readonly [D in Exclude<Noticed['dead'], undefined | 'resting'>]: string } = {
  carrier: 'no light on its cable',
  address: 'no address',
  neighbour: 'its gateway answers no ARP',
  watch: 'no watch answers',
};

/** What the box noticed of an uplink. */
export function noticedText({ interface: name, dead, called, shared, ended, staying = [] }: Noticed): string {
  const count = (flows: readonly unknown[]) => (flows.length === 1 ? 'a flow' : `${flows.length} flows`);
  if (shared) return `${shared.box} ${shared.isActive ? 'takes over' : 'stands by'} on ${name}`;
  if (called) return `${name} is called, since no other lives`;
  if (dead === undefined)
    return `${name} is used again${staying.length ? `; ${count(staying)} elsewhere ${staying.length === 1 ? 'stays' : 'stay'} there until the end` : ''}`;
  const gone = ended.length ? `; ${count(ended)} by it ended` : '';
  return dead === 'resting'
    ? `${name} rests again${gone}`
    : `${name} counts as dead: ${BECAUSE[dead]}${gone}`;
}

export const outageText = ({ from, to, lost }: Outage): string =>
  to === undefined
    ? `from ${secondsText(from)} on nothing, ${lost} lost`
    : `${secondsText(to - from)} without an answer, from ${secondsText(from)} on, ${lost} lost`;

/** A drill in one sentence. */
export function drillText({ from, to, row, lost, outages, spent }: DrillRun): string {
  const sent = `${row.length} pings from ${from} to ${to}, ${lost} lost`;
  const gone = outages.length
    ? `; ${outages.map(outageText).join('; ')}`
    : lost
      ? ', never for as long as a second'
      : '';
  return `${sent}${gone}${spent ? '; the bench was stopped, since something on it went on and on' : ''}`;
}

export function drillFaultText(fault: DrillFault): string {
  switch (fault.fault) {
    case 'no-such-place':
      return `no station is called ${fault.name}, and it is not the box`;
    case 'no-such-target':
      return `${fault.name} is no far host and no address`;
    case 'bad-time':
      return `a drill takes from 1 to ${MOST_SECONDS} seconds, and every deed its second`;
    case 'nobody-to-ping':
      return 'no far host answers pings; name one with an address';
    case 'no-such-line':
      return `there is no line ${fault.name} to do that to`;
  }
}

/** A fault as the heads of the board say it. */
export const faultText = ({ cut, dead }: Fault): string =>
  [...cut.map((c) => `${c} cut`), ...dead.map((d) => `${d} dead`)].join(' and ');

/** Why something is dead, in a sentence. */
export const deadText = (why: Ending | undefined): string =>
  why ? END_TEXTS[why.why](why) : 'nobody answers any more';

/** What becomes of a desk or door. */
export function outcomeText(outcome: Outcome): string {
  switch (outcome.is) {
    case 'never':
      return 'does not get out anyway';
    case 'on':
      return `goes on${outcome.by === undefined ? '' : ` by ${outcome.by}`}${outcome.after ? ` after ${outcome.after} s` : ', at once'}${outcome.seen === undefined ? '' : `, seen as ${outcome.seen}`}`;
    case 'dead':
      return `dead: ${deadText(outcome.why)}`;
  }
}
