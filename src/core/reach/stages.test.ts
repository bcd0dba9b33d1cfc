/** Each stage on sets against the one packet: what `decide` says of a flow drawn at random is what its set says. */
import { expect } from 'chai';
import fc from 'fast-check';
import { familyOf, formatIp, isIpv4, isNobodysSource, mustIpv4, offsetIp } from '#core/addr';
import type { FlowService, Ip } from '#core/addr';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { checkSource, decideAnswer, decideDoor, decideLeave, decidePassage, lookUp } from '#core/semantics';
import { ASKED_SERVICES, anySite, siteFrom } from '#core/testkit';
import { ALL, has } from './block';
import { Follower } from './follow';

/** Addresses worth asking about: those that the site speaks of, their neighbours, and some from elsewhere. */
function worthAsking({ site, rules }: Model): Ip[] {
  const spoken = [
    ...site.interfaces.flatMap((i) => i.addresses.map((a) => a.prefix.address)),
    ...rules.doors.flatMap((d) => [d.outside, d.inside]),
    ...site.stations.flatMap((s) =>
      s.address?.value.by === 'static' ? [s.address.value.prefix.address] : [],
    ),
    ...['192.0.2.80', '203.0.113.7', '10.61.99.9', '127.0.0.1', '198.51.100.19'].map(mustIpv4),
  ];
  return spoken.flatMap((a) => [a, offsetIp(a, 1), offsetIp(a, 7)].filter((x) => x !== undefined));
}

/** Puts flows of generated sites to a stage. */
const each = (
  stage: (
    model: Model,
    follower: Follower,
    flow: { source: Ip; destination: Ip; service: FlowService },
  ) => void,
) =>
  fc.assert(
    fc.property(
      anySite(),
      fc.array(fc.tuple(fc.nat(), fc.nat(), fc.nat()), { minLength: 12 }),
      (text, draws) => {
        const model = modelOf(siteFrom(text));
        const follower = new Follower(model);
        const addresses = worthAsking(model);
        for (const [a, b, c] of draws) {
          const source = addresses[a % addresses.length]!;
          const alike = addresses.filter((x) => isIpv4(x) === isIpv4(source));
          const service = ASKED_SERVICES.filter((s) =>
            s.proto === 1 ? isIpv4(source) : s.proto !== 58 || !isIpv4(source),
          );
          stage(model, follower, {
            source,
            destination: alike[b % alike.length]!,
            service: service[c % service.length]!,
          });
        }
      },
    ),
    { numRuns: 60, seed: 20261129 },
  );
const live = (model: Model) => model.site.interfaces.filter((i) => !i.off);

describe('the stages of the reach', () => {
  it('ways: every address of a family has one way, by the route that the one packet takes', () => {
    each((model, { ways }, { destination }) => {
      for (const table of new Set(live(model).map((i) => i.table))) {
        const all = ways.waysOf(table, familyOf(destination));
        expect(
          all.filter((w) => w.destinations.has(destination)),
          formatIp(destination),
        ).to.have.length(1);
        const { route } = ways.wayOf(table, destination);
        expect(route).to.equal(lookUp(model.routes, table, destination));
        const rest = all.reduce((left, w) => left.minus(w.destinations), ALL[familyOf(destination)]);
        expect(rest.isEmpty, 'none is left out').to.equal(true);
      }
    });
  });

  it('entry: a source goes on where neither the box nor nobody has it, a route leads back and guard takes it', () => {
    each((model, { entries, ways }, { source }) => {
      for (const arrival of live(model)) {
        const family = familyOf(source);
        const { sources, ended } = entries.of(arrival, family);
        const ends = ended.filter((o) => o.flows.sources.has(source));
        if (ends[0]?.end === 'not-spoken') continue;
        expect(ends.length + Number(sources.has(source)), 'one end or none').to.equal(1);
        const refused = ways.ownOf(arrival.table, family).has(source) || isNobodysSource(source);
        const wrong = checkSource(model.site, model.routes, model.states, arrival, source);
        const said = refused
          ? 'own-source'
          : wrong === undefined
            ? undefined
            : wrong === 'no-route-back'
              ? wrong
              : 'guard';
        expect(ends[0]?.end, `${formatIp(source)} by ${arrival.name}`).to.equal(said);
      }
    });
  });

  it('doors: what the one packet is led through is taken by the same door, to the same inside', () => {
    each((model, { doors, entries }, flow) => {
      for (const arrival of live(model)) {
        if (!entries.of(arrival, familyOf(flow.source)).sources.has(flow.source)) continue;
        const one = decideDoor(model.site, model.rules, model.routes, arrival, flow);
        const at = doors.at(arrival, flow.destination);
        const taken = at?.taken.filter((o) => has(o.flows, flow)) ?? [];
        if (at)
          expect(
            at.left.some((b) => has(b, flow)),
            'taken or left',
          ).to.equal(!taken.length);
        expect(taken.length, 'by one door at most').to.be.at.most(1);
        expect(taken[0]?.door).to.equal(one?.rule);
        if (one?.port !== undefined) expect(flow.service.port! + taken[0]!.shift!).to.equal(one.port);
      }
    });
  });

  it('policy and leaving: the first statement that takes the one packet takes its set', () => {
    each((model, { policy, leaving }, flow) => {
      for (const arrival of live(model))
        for (const departure of live(model)) {
          const [from, to] = [arrival.zone, departure.zone];
          if (!from || !to) continue;
          const sets = policy.between(from.name, to.name, familyOf(flow.source));
          const mine = sets.filter((d) => has(d.flows, flow));
          expect(mine).to.have.length(1);
          const { decided } = decidePassage(model.rules, arrival, departure, flow);
          expect(mine[0]!.rule?.statement).to.equal(
            decided.by === 'statement' ? decided.statement : undefined,
          );
          const left = leaving
            .leavesBetween(arrival, departure)
            .find((r) => r.family === familyOf(flow.source) && (!r.sources || r.sources.has(flow.source)));
          expect(left).to.equal(decideLeave(model.rules, arrival, departure, flow.source));
        }
    });
  });

  it('what arrives at the box is answered by the clause that answers the one packet', () => {
    each((model, follower, flow) => {
      for (const arrival of live(model)) {
        const answered = follower.answered(arrival, familyOf(flow.source)).filter((o) => has(o.flows, flow));
        const own = follower.ways.ownOf(arrival.table, familyOf(flow.source)).has(flow.destination);
        const enters = follower.entries.of(arrival, familyOf(flow.source)).sources.has(flow.source);
        const led = decideDoor(model.site, model.rules, model.routes, arrival, flow);
        const one = own && enters && !led ? decideAnswer(model.rules, arrival.name, flow) : undefined;
        expect(answered.map((o) => o.answer)).to.deep.equal(one ? [one] : []);
      }
    });
  });
});
