/** The seat and the crossing as the views show them: plain data, sentences already made. */
import { formatIp, formatPrefix, isIpv4, parseIp, parsePrefix } from '#core/addr';
import type { Ipv4, Ipv6, Prefix } from '#core/addr';
import { memo } from '#core/base';
import { SeatWorld, byShell, seatClauses, slowCrossings, standbyFirst } from '#core/change';
import type { DeskMove, Plan, Seat } from '#core/change';
import type { Model } from '#core/model';
import {
  apartText,
  changeTexts,
  contactText,
  deskText,
  slowLine,
  slowRest,
  standbyText,
  stepLine,
  todoText,
} from '#words';
import type { DeskMoveView, DeskState, PlanView, SeatView } from './protocol';

const NOBODY = 'nobody';
/** What runs seldom changes: who sits there, and by what way they come in, are looked up once. */
const worlds = {
  bench: new WeakMap<Model, SeatWorld | typeof NOBODY>(),
  live: new WeakMap<Model, SeatWorld | typeof NOBODY>(),
};
const waysNow = new WeakMap<Model, Map<string, string>>();

/** Whether the administrator's PC reaches the box, in what it runs and in the draft. */
export function seatView(
  running: Model,
  draft: Model,
  desk?: DeskState,
  isLive = false,
): SeatView | undefined {
  const world = memo(
    worlds[isLive ? 'live' : 'bench'],
    running,
    () => SeatWorld.of(running, undefined, waysThatCount(isLive)) ?? NOBODY,
  );
  if (world === NOBODY) return undefined;
  const at = (desk && readDesk(desk)) ?? world.start;
  const way = ({ site }: Model): string => {
    const [first] = world.contacts(site, at);
    return first ? contactText(first) : '';
  };
  const ways = memo(waysNow, running, () => new Map<string, string>());
  const now = memo(ways, JSON.stringify([desk, isLive]), () => way(running)) || undefined;
  return {
    name: world.name,
    supposed: world.supposed,
    running: now,
    draft: running === draft ? now : way(draft) || undefined,
    at: deskState(at),
    moves: now === undefined ? world.desk(running.site, at).map(moveView) : [],
  };
}

/** On the bench all that a text answers; on a live box that by which it is called. */
export const waysThatCount = (isLive: boolean) => (isLive ? byShell() : undefined);

const deskState = (seat: Seat): DeskState => ({
  plug: seat.plug,
  address: seat.address && formatPrefix(seat.address),
  gateway: seat.gateway === undefined ? undefined : formatIp(seat.gateway),
  address6: seat.address6 && formatPrefix(seat.address6),
  gateway6: seat.gateway6 === undefined ? undefined : formatIp(seat.gateway6),
});

/** A seat as the page tells it; undefined where an address of it cannot be read. */
export function readDesk(desk: DeskState): Seat | undefined {
  const read = (text: string | undefined) => (text === undefined ? undefined : parsePrefix(text));
  const hop = (text: string | undefined) => (text === undefined ? undefined : parseIp(text));
  const [address, address6] = [read(desk.address), read(desk.address6)];
  if ((desk.address !== undefined && !address) || (desk.address6 !== undefined && !address6))
    return undefined;
  if ((address && !isIpv4(address.address)) || (address6 && isIpv4(address6.address))) return undefined;
  return {
    plug: desk.plug,
    address: address as Prefix<Ipv4> | undefined,
    gateway: hop(desk.gateway),
    address6: address6 as Prefix<Ipv6> | undefined,
    gateway6: hop(desk.gateway6),
  };
}

function moveView(move: DeskMove): DeskMoveView {
  const to = deskState(move.seat);
  const writes = [
    ...(move.what === 'replug' ? [{ name: 'at', text: `at ${to.plug}` }] : []),
    ...(move.leased ? [] : seatClauses(move.seat)),
  ];
  // Two PCs cannot be on one port: where one has to go, the wiring is left to whoever moves it.
  return { text: deskText(move), to, writes: move.instead === undefined ? writes : undefined };
}

/** How crossings from one site to another are shown: what every plan has in common is reckoned once. */
export function planViews(running: Model, draft: Model): (plan: Plan) => PlanView {
  const pair = standbyFirst(running.site, draft.site);
  const standby = pair && {
    text: standbyText(pair),
    box: pair.standby,
    changes: pair.changes.flatMap(changeTexts),
    apart: apartText(pair),
  };
  const slow = slowCrossings(running, draft.site).map((s) => ({
    interface: s.interface,
    steps: s.steps.map((step) => ({
      text: slowLine(s, step),
      box: step.box,
      last: step.what === 'release',
    })),
    rest: slowRest(s),
  }));
  return (plan) => ({
    lockout: plan.lockout,
    standby: plan.steps.length ? standby : undefined,
    slow,
    seat: plan.seat && {
      name: plan.seat.name,
      supposed: plan.seat.supposed,
      before: plan.seat.before && contactText(plan.seat.before),
    },
    steps: plan.steps.map((step, i) => ({
      what: step.what,
      text: stepLine(step, plan),
      fate: step.fate,
      todo: todoText(step, plan),
      move: step.desk && moveView(step.desk),
      contact: step.contact && contactText(step.contact),
      box: step.box,
      last: i === plan.steps.length - 1,
    })),
  });
}
