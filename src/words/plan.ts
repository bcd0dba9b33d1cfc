/** The crossing in sentences. */
import { formatIp, formatPrefix, isIpv4 } from '#core/addr';
import type { Contact, DeskMove, Plan, PlanStep, SlowCrossing, SlowStep, TwoBoxes } from '#core/change';
import { changeTexts } from './change';

const USUAL = { https: 443, ssh: 22, http: 80 } as const;

/** Where to go to get into the box: `https://10.61.1.1:8443`, `ssh 10.61.1.1 port 2222`. */
export function contactText({ address, service, port }: Contact): string {
  const at = service !== 'ssh' && !isIpv4(address) ? `[${formatIp(address)}]` : formatIp(address);
  const usual = service in USUAL && USUAL[service as keyof typeof USUAL] === port;
  if (service === 'ssh') return `ssh ${at}${usual ? '' : ` port ${port}`}`;
  return `${service}://${at}${usual ? '' : `:${port}`}`;
}

/** What somebody does at the desk. */
export function deskText({ what, seat, leased, instead }: DeskMove): string {
  const prefix = seat.address6 && !leased ? seat.address6 : seat.address;
  const by6 = prefix === seat.address6;
  const hop = by6 ? seat.gateway6 : seat.gateway;
  const address = prefix ? formatPrefix(prefix) : 'none';
  const gateway = hop === undefined ? '' : `, gateway ${formatIp(hop)}`;
  const by = leased ? `renew the lease (it gets ${address})` : `set ${address}${gateway}`;
  const there = instead === undefined ? seat.plug : `${seat.plug} in place of ${instead}`;
  return what === 'replug' ? `move the cable to ${there}, then ${by}` : by;
}

/** Which of two boxes comes first, and what has to be minded between the two. */
export const standbyText = ({ standby, active }: TwoBoxes): string =>
  `${standby}, which stands by, comes first, with its own text; then ${active}, for which it takes over meanwhile.`;
export const apartText = ({ standby, active, apart }: TwoBoxes): string | undefined =>
  apart.length
    ? `${apart.join(', ')}: what the two share there changes, so that both would be active while only one has its new text. Have it off in the text of ${standby} until ${active} has its own.`
    : undefined;

/** What a step does, in one line. */
export function stepLine(step: PlanStep, plan: Plan): string {
  const who = plan.seat?.name ?? 'the desk';
  const beside = step.beside
    ? `${step.beside.interface}: ${step.beside.clauses.join(', ')} (for the crossing only)`
    : '';
  switch (step.what) {
    case 'apply': {
      const told = step.changes.flatMap(changeTexts).join('; ');
      return beside ? `${told}; with it ${beside}` : told;
    }
    case 'hold':
      return `hold beside: ${beside}`;
    case 'release':
      return `no longer beside: ${step.beside?.interface}: ${step.beside?.clauses.join(', ')}`;
    case 'desk':
      return `at ${who}: ${step.desk ? deskText(step.desk) : ''}`;
  }
}

/** What there is to do at the desk with a step; undefined for nothing. */
export function todoText(step: PlanStep, plan: Plan): string | undefined {
  const who = plan.seat?.name ?? 'the desk';
  const go = step.contact ? `go on at ${contactText(step.contact)}` : '';
  if (step.what === 'desk') return `At ${who}: ${step.desk ? deskText(step.desk) : ''}; then ${go}.`;
  if (step.fate === 'moved') return `At ${who}: ${go}.`;
  if (step.fate !== 'cut') return undefined;
  return step.todo
    ? `Contact is lost here. At ${who}: ${deskText(step.todo)}.`
    : `Contact is lost here, and nothing at ${who} brings it back: leave a login answered where it sits, or sit elsewhere.`;
}

const spanText = (seconds: number): string =>
  seconds % 86400 === 0
    ? `${seconds / 86400} d`
    : seconds % 3600 === 0
      ? `${seconds / 3600} h`
      : `${Math.ceil(seconds / 60)} min`;

/** A step of a slow crossing, in one line. */
export function slowLine({ interface: name, was, now }: SlowCrossing, { what, wait }: SlowStep): string {
  const then = wait ? `; then wait ${spanText(wait)}` : '';
  switch (what) {
    case 'shorten':
      return `${name}: leases of 5 min from now on${then}, until the last long one is gone`;
    case 'beside':
      return `${name}: ${formatPrefix(now)}, with ${formatPrefix(was)} beside it${then}, until everybody has renewed`;
    case 'release':
      return `${name}: ${formatPrefix(was)} goes, and leases are as long as the draft says`;
  }
}

/** Whom no lease moves. */
export function slowRest({ fixed, reserved, now }: SlowCrossing): string[] {
  return [
    ...(fixed.length
      ? [`Set by hand while both addresses are there: ${fixed.join(', ')} (into ${formatPrefix(now)}).`]
      : []),
    ...(reserved.length ? [`Addresses kept before and not in the draft: ${reserved.join(', ')}.`] : []),
  ];
}

export const FATE_WORDS: Readonly<Record<PlanStep['fate'], string>> = {
  kept: 'keeps its way in',
  moved: 'goes on elsewhere',
  cut: 'is cut off',
};
