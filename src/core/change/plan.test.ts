import { expect } from 'chai';
import fc from 'fast-check';
import { formatIp } from '#core/addr';
import { Bench } from '#core/bench';
import { contextOf, findAll } from '#core/findings';
import { WIRING_KINDS, parseDocument, printStatement } from '#core/notation';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { Reach } from '#core/reach';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';
import { anyCrossing, howMany } from '#core/testkit';
import { stepLine, todoText } from '#words';
import { changeOf } from './diff';
import { SeatWorld, byShell, contactsOf, planCrossing } from './index';
import { pairStatements } from './pairs';
import type { Contact, Plan, Seat } from './index';

const modelFrom = (...texts: readonly string[]): Model =>
  modelOf(buildSite(texts.map((text, i) => parseDocument(text, `f${i}`))));

/** The bench with the seat's PC as it stands, whom to ask for a connection. */
class Booted {
  private readonly bench: Bench;

  constructor(
    readonly model: Model,
    private readonly name: string,
  ) {
    this.bench = new Bench(model).boot();
  }

  gets(contact: Contact): boolean {
    const attempt = this.bench.hosts.get(this.name)!.endpoints.connect(contact.address, contact.port, 1);
    this.bench.wait(() => attempt.done, 20_000);
    return attempt.opened === true;
  }
}

const LOGINS = [22, 80, 443, 8443];

/** Every step of a plan, booted: does the seat fare as the plan says? Answers what does not fit. */
function faults(plan: Plan, running: Model): string[] {
  const world = SeatWorld.of(running);
  if (!world || !plan.seat?.before) return [];
  const out: string[] = [];
  const boot = (at: { readonly box: string; readonly seat: Seat }) =>
    new Booted(world.model(at.box, at.seat), world.name);
  let was = boot({ box: boxOf(running.site), seat: world.start });
  if (!was.gets(plan.seat.before)) out.push('no contact to begin with');
  for (const [n, step] of plan.steps.entries()) {
    const now = boot({ box: step.box, seat: step.seat! });
    const say = (what: string) => out.push(`step ${n + 1} (${stepLine(step, plan)}): ${what}`);
    if (step.fate === 'cut') {
      const own = now.model.site.interfaces.flatMap((i) =>
        i.off ? [] : i.addresses.map((a) => a.prefix.address),
      );
      for (const address of own)
        for (const port of LOGINS)
          if (now.gets({ address, port, service: 'ssh' })) say(`${formatIp(address)} ${port} is reached`);
      if (step.todo) {
        const model = world.model(step.box, step.todo.seat);
        const [way] = contactsOf(new Reach(model), world.name);
        if (!way || !new Booted(model, world.name).gets(way)) say('what is to be done does not help');
      }
      break;
    }
    if (step.contact && !now.gets(step.contact)) say(`${formatIp(step.contact.address)} is not reached`);
    if (step.fate === 'kept' && step.contact && !was.gets(step.contact)) say('that way in is new');
    was = now;
  }
  return out;
}

const boxOf = (site: Site): string => site.documents[0]!.text;

const WIRING = `circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
station laptop: at p8, address 10.61.99.10/24, gateway 10.61.99.1, seat
station wheel: at p2, address by dhcp
`;
const RUNNING = `box tide: names 192.0.2.53
zone world: upstream
zone studio:
zone stewards: management
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard
interface studio: on p2, zone studio, address 10.61.20.1/24, lends .50-.199, answers ping
interface console: on p8, zone stewards, address 10.61.99.1/24, answers ping ssh https
leave any > world: as interface
passage studio > world: allow
`;

function check(
  running: Model,
  draft: Model,
  { fates, says, lockout }: { readonly fates: string; readonly says?: RegExp; readonly lockout: boolean },
): void {
  const plan = planCrossing(running, draft);
  const told = plan.steps.map((s) => `${stepLine(s, plan)} ${todoText(s, plan) ?? ''}`).join('\n');
  expect(plan.steps.map((s) => s.fate).join(' '), told).to.match(new RegExp(`^(kept )*${fates}$`));
  expect(plan.lockout).to.equal(lockout);
  if (says) expect(told).to.match(says);
  expect(faults(plan, running)).to.deep.equal([]);
}

describe('the crossing plan', () => {
  const drills: readonly {
    readonly why: string;
    readonly edit: (text: string) => string;
    readonly wiring?: (text: string) => string;
    readonly fates: string;
    readonly says?: RegExp;
    readonly lockout?: boolean;
  }[] = [
    {
      why: 'what has nothing to do with the seat keeps it',
      edit: (t) => `${t}passage studio > stewards: allow ping\n`,
      fates: 'kept',
    },
    {
      why: 'the address and mask of the very network the seat is on',
      edit: (t) => t.replace('10.61.99.1/24', '10.61.98.1/25'),
      fates: 'kept moved kept',
      says: /At laptop: set 10\.61\.98\.10\/25, gateway 10\.61\.98\.1; then go on at https:\/\/10\.61\.98\.1\./,
    },
    {
      why: 'the same, of a PC that takes its address from the box',
      edit: (t) => t.replace('10.61.99.1/24', '10.61.98.1/24'),
      wiring: (t) => t.replace('address 10.61.99.10/24, gateway 10.61.99.1', 'address by dhcp'),
      fates: 'kept moved kept',
      says: /renew the lease \(it gets 10\.61\.98\.50\/24\)/,
    },
    {
      why: 'the seat’s port into a bridge that answers',
      edit: (t) =>
        t
          .replace(/interface console.*\n/, '')
          .replace('on p2,', 'bridge p2 p8,')
          .replace('199, answers ping', '199, answers ping ssh'),
      fates: 'kept moved kept',
      says: /set 10\.61\.20\.10\/24/,
    },
    {
      why: 'the management interface turned into a tag, with another port to go to',
      edit: (t) => t.replace('on p8', 'on p8 tag 99').replace('199, answers ping', '199, answers ping https'),
      fates: 'kept moved kept',
      says: /move the cable to p2 in place of wheel, then set 10\.61\.20\.10\/24/,
    },
    {
      why: 'the same with nowhere to go',
      edit: (t) => t.replace('on p8', 'on p8 tag 99'),
      fates: 'cut',
      says: /nothing at laptop brings it back/,
      lockout: true,
    },
    {
      why: 'the last login of the seat taken away',
      edit: (t) => t.replace(' ssh https', ''),
      fates: 'cut',
      lockout: true,
    },
    {
      why: 'the port of the seat switched off',
      edit: (t) => `${t}port p8: off\n`,
      fates: 'cut',
      lockout: true,
    },
    {
      why: 'doors over the logins at the address that the seat uses, with another left',
      edit: (t) => `${t}door a: 10.61.99.1 > 10.61.20.9, from any\n`,
      fates: 'moved',
      says: /./,
    },
    {
      why: 'a door over all that the seat could ask',
      edit: (t) =>
        `${t}door a: 10.61.99.1 > 10.61.20.9, from any\ndoor b: 10.61.20.1 > 10.61.20.9, from any\ndoor c: fibre > 10.61.20.9, from any\n`,
      fates: 'cut',
      lockout: true,
    },
    {
      why: 'guard, which refuses what is private',
      edit: (t) => t.replace('ping ssh https', 'ping ssh https, guard'),
      fates: 'cut',
      lockout: true,
    },
    {
      why: 'one login of two taken away, and the other service goes on',
      edit: (t) => t.replace(' ssh https', ' ssh'),
      fates: 'kept',
    },
    {
      why: 'two ports swapped, which stands only together',
      edit: (t) =>
        t
          .replace('fibre: on p1', 'fibre: on p4')
          .replace('studio: on p2', 'studio: on p1')
          .replace('on p4', 'on p2'),
      fates: 'kept',
    },
    {
      why: 'an interface by another name, with all that use it',
      edit: (t) => t.replace('interface console', 'interface desk-net'),
      fates: 'kept',
    },
  ];
  for (const { why, edit, wiring = (t: string) => t, fates, says, lockout = false } of drills)
    it(why, () => {
      const around = wiring(WIRING);
      const lent = around.includes('laptop: at p8, address by dhcp');
      const run = lent ? RUNNING.replace('99.1/24,', '99.1/24, lends .50-.99,') : RUNNING;
      check(modelFrom(run, around), modelFrom(edit(run), around), { fates, says, lockout });
    });

  /** The same box managed over IPv6 alone. */
  const SIX = RUNNING.replace(
    'zone stewards, address 10.61.99.1/24,',
    'zone stewards, address6 2001:db8:61:99::1/64,',
  );
  const SIX_DESK = 'address6 2001:db8:61:99::10/64, gateway6 2001:db8:61:99::1';
  const sixes: typeof drills = [
    {
      why: 'what has nothing to do with a seat of IPv6 keeps it',
      edit: (t) => `${t}passage studio > stewards: allow ping\n`,
      fates: 'kept',
    },
    {
      why: 'the IPv6 network that the seat is on',
      edit: (t) => t.replace('2001:db8:61:99::1', '2001:db8:61:98::1'),
      fates: 'kept moved kept',
      says: /set 2001:db8:61:98::10\/64, gateway 2001:db8:61:98::1; then go on at https:\/\/\[2001:db8:61:98::1\]/,
    },
    {
      why: 'the same, of a PC that makes its address of what is advertised',
      edit: (t) => t.replace('2001:db8:61:99::1', '2001:db8:61:98::1'),
      wiring: (t) => t.replace(SIX_DESK, 'address by dhcp'),
      fates: 'moved',
      says: /go on at https:\/\/\[2001:db8:61:98::1\]/,
    },
    {
      why: 'logins from IPv4 only, for a PC that has none',
      edit: (t) => t.replace('ping ssh https', 'ping, answers ssh https from 10.61.0.0/16'),
      fates: 'cut',
      lockout: true,
    },
  ];
  for (const { why, edit, wiring = (t: string) => t, fates, says, lockout = false } of sixes)
    it(why, () => {
      const around = wiring(WIRING.replace('address 10.61.99.10/24, gateway 10.61.99.1', SIX_DESK));
      const run = around.includes('at p8, address by dhcp')
        ? SIX.replace('::1/64,', '::1/64, advertises,')
        : SIX;
      check(modelFrom(run, around), modelFrom(edit(run), around), { fates, says, lockout });
    });

  it('begins where the seat is: what a step that stayed left to do at the desk comes first', () => {
    const around = WIRING.replace('address 10.61.99.10/24, gateway 10.61.99.1', 'address by dhcp');
    const old = RUNNING.replace('99.1/24,', '99.1/24, lends .50-.99,');
    const moved = old.replace('10.61.99.1/24', '10.61.98.1/24');
    const draft = modelFrom(`${moved}zone guests:\n`, around);
    const at = SeatWorld.of(modelFrom(old, around))!.start;
    const plan = planCrossing(modelFrom(moved, around), draft, { at });
    expect(plan.steps.map((s) => `${s.what} ${s.fate}`)).to.deep.equal(['desk moved', 'apply kept']);
    expect(plan.seat?.before).to.deep.include({ service: 'https' });
    expect(plan.lockout).to.equal(false);
    // Who sits where the box would have them has nothing to catch up with.
    expect(planCrossing(modelFrom(moved, around), draft).steps.map((s) => s.what)).to.deep.equal(['apply']);
  });

  it('supposes a desk where nobody is said to sit, and says so', () => {
    const without = (text: string) => modelFrom(text, WIRING.replace(/station laptop.*\n/, ''));
    const plan = planCrossing(without(RUNNING), without(RUNNING.replace(' ssh https', '')));
    expect(plan.seat).to.deep.include({ name: 'console-desk', supposed: true });
    expect(plan.lockout).to.equal(true);
    const nobody = planCrossing(without(RUNNING.replace(' ssh https', '')), without(RUNNING));
    expect([nobody.seat, nobody.lockout]).to.deep.equal([undefined, false]);
    const shut = modelFrom(RUNNING.replace(' ssh https', ''), WIRING);
    const still = planCrossing(shut, modelFrom(RUNNING.replace(' ssh https', ' dns'), WIRING));
    expect([still.seat?.before, still.lockout]).to.deep.equal([undefined, false]);
  });

  it('ends at the draft, each step at a configuration of its own', () => {
    const running = modelFrom(RUNNING, WIRING);
    const after = `${RUNNING.replace('ssh https', 'https').replace('.50-.199', '.60-.99')}zone guests:\n`;
    const plan = planCrossing(running, modelFrom(after, WIRING));
    expect(new Set(plan.steps.map((s) => s.box)).size).to.equal(plan.steps.length);
    const end = modelFrom(plan.steps.at(-1)!.box, WIRING);
    expect(planCrossing(end, modelFrom(after, WIRING)).steps).to.deep.equal([]);
  });

  it('tells what passes between others in one step where it is much, and the rest of the crossing as ever', () => {
    const running = modelFrom(RUNNING, WIRING);
    const much = Array.from({ length: 60 }, (_, i) => `passage studio > world: allow tcp ${2000 + i}\n`).join(
      '',
    );
    const moved = RUNNING.replace('ssh https', 'https') + much;
    const plan = planCrossing(running, modelFrom(moved, WIRING));
    expect(plan.steps.map((s) => s.changes.length).sort((a, b) => a - b)).to.deep.equal([1, 60]);
    expect(faults(plan, running)).to.deep.equal([]);
    // And taken away again, with a statement that is said otherwise.
    const back = planCrossing(modelFrom(moved, WIRING), running);
    expect(back.steps.map((s) => s.changes.length).sort((a, b) => a - b)).to.deep.equal([1, 60]);
    expect(back.steps.at(-1)!.box).to.equal(boxOf(running.site));
  });

  it('counts a way in by which nobody comes for none', () => {
    const both = modelFrom(RUNNING, WIRING);
    const shut = modelFrom(RUNNING.replace('ssh https', 'https'), WIRING);
    expect(planCrossing(both, shut).lockout).to.equal(false);
    expect(planCrossing(both, shut, { counts: byShell() }).lockout).to.equal(true);
    const elsewhere = modelFrom(RUNNING.replace('ssh https', 'ssh 2222 https'), WIRING);
    expect(planCrossing(both, elsewhere, { counts: byShell() }).lockout).to.equal(false);
    // Where nobody is known to listen, nobody gets in.
    expect(planCrossing(both, elsewhere, { counts: byShell(22) }).lockout).to.equal(true);
  });

  it('says of generated changes what the bench finds, step by step', () => {
    fc.assert(
      fc.property(anyCrossing, ({ running, draft, wiring }) => {
        const before = modelFrom(running, wiring);
        expect(faults(planCrossing(before, modelFrom(draft, wiring)), before)).to.deep.equal([]);
      }),
      { numRuns: howMany(32, 120), seed: 20261123 },
    );
  }).timeout(240_000);

  it('finds an order that keeps the seat wherever a search of all of them finds one', () => {
    let orders = 0;
    fc.assert(
      fc.property(anyCrossing, ({ running, draft, wiring }) => {
        const [before, after] = [modelFrom(running, wiring), modelFrom(draft, wiring)];
        const plan = planCrossing(before, after);
        if (plan.changes.length > 6 || plan.changes.some((c) => c.kind === 'order')) return;
        if (!keptBySomeOrder(before, after)) return;
        orders++;
        expect(plan.steps.map((s) => s.fate)).to.deep.equal(plan.steps.map(() => 'kept'));
      }),
      { numRuns: howMany(32, 120), seed: 20261124 },
    );
    expect(orders).to.be.greaterThan(10);
  }).timeout(240_000);
});

/** Whether the changes, told one after the other in any order at all, can leave the seat one of its ways in throughout. */
function keptBySomeOrder(from: Model, to: Model): boolean {
  const [running, draft] = [from.site, to.site];
  const world = SeatWorld.of(from);
  if (!world) return false;
  const own = (site: Site) => site.statements.filter((s) => !WIRING_KINDS.has(s.kind));
  const pairs = pairStatements(own(running), own(draft));
  const open = pairs.flatMap((pair, i) => (changeOf(running, draft, pair) ? [i] : []));
  const around = running.documents[1]!.text;
  const errorsOf = (box: string) =>
    findAll(contextOf(new Reach(modelFrom(box, around)))).flatMap((f) =>
      f.severity === 'error' && !JUDGED_BY_THE_PLAN.has(f.code)
        ? [`${f.code} ${f.subject.replace(/#\d+$/, '')}`]
        : [],
    );
  /** The box with some of the changes told, by a bit each. */
  const config = (told: number): string =>
    `${pairs
      .map(({ was, now }, i) => {
        const at = open.indexOf(i);
        const s = at >= 0 && !(told & (1 << at)) ? was : now;
        return s && s.kind !== 'expect' ? printStatement(s) : '';
      })
      .filter((t) => t)
      .join('\n')}\n`;
  const all = (1 << open.length) - 1;
  const allowed = new Set([...errorsOf(config(0)), ...errorsOf(config(all))]);
  const waysOf = (told: number) =>
    new Set(
      world.contacts(config(told), world.start).map((c) => `${formatIp(c.address)} ${c.service} ${c.port}`),
    );
  const sound = (told: number) =>
    told === 0 || told === all || errorsOf(config(told)).every((e) => allowed.has(e));
  // One way in has to be there at every stop: each is tried by itself, so that stops already seen need no second look.
  const [first] = world.contacts(config(0), world.start);
  const inUse = first && `${formatIp(first.address)} `;
  return [...waysOf(0)].some((way) => {
    if (!inUse || !way.startsWith(inUse)) return false;
    const seen = new Set<number>();
    const go = (told: number): boolean => {
      if (told === all) return true;
      seen.add(told);
      return open.some((_, at) => {
        const next = told | (1 << at);
        return next !== told && !seen.has(next) && sound(next) && waysOf(next).has(way) && go(next);
      });
    };
    return waysOf(all).has(way) && go(0);
  });
}

/** Findings that the plan tells in its own way. */
const JUDGED_BY_THE_PLAN = new Set(['seat-cut', 'no-way-in', 'expectation-failed', 'first-password']);
