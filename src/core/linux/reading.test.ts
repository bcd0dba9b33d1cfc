import { expect } from 'chai';
import fc from 'fast-check';
import { siteFrom } from '#core/testkit';
import { driftText, realTraceText } from '#words';
import { readDrift, readTrace } from './index';

const site = siteFrom(`zone studio:
interface studio: on p3 tag 20, zone studio, address 10.61.20.1/24
`);

describe('drift, as the hinge tells it', () => {
  it('is put in the terms of the text', () => {
    const lines = `+ address p3.20 10.61.20.9/24
- address p3.20 10.61.20.1/24
+ address p9 10.9.0.1/24
- route 4 10.61.20.0/24 dev p3.20 metric 1
+ foreign-route 4 203.0.113.0/24 via 10.61.20.7 dev p3.20
+ rules tcp dport 2222 accept
- rules
~ mtu p3.20 1400 1500
~ setting net/ipv4/ip_forward 0 1
- up p3.20
- generation
~ mac p3.20 02:00:00:00:00:09 02:00:00:00:00:03
~ master p3.20 br-theirs -
- keeper
- daemon kea4-main-json
+ judge inet filter input,forward
nothing that is known
`;
    const read = readDrift(site, lines);
    expect(read.map((d) => `${d.what} ${d.how} ${d.interface ?? '-'}`)).to.deep.equal([
      'address added studio',
      'address lost studio',
      'address added -',
      'route lost studio',
      'foreign-route added studio',
      'filter added -',
      'filter lost -',
      'mtu changed studio',
      'setting changed -',
      'up lost studio',
      'generation lost -',
      'mac changed studio',
      'master changed studio',
      'keeper lost -',
      'daemon lost -',
      'judge added -',
    ]);
    expect(read.slice(11).map(driftText)).to.deep.equal([
      'studio has the MAC address 02:00:00:00:00:09, and was told 02:00:00:00:00:03',
      'somebody put studio into br-theirs: what comes in there is not the box’s any more',
      'the box’s keeper is stopped: nobody watches the uplinks, or puts back what goes',
      'who lends addresses (Kea) is stopped',
      'a table of somebody else, inet filter, judges the same packets (input, forward), and refuses some',
    ]);
    expect(read[7]).to.include({ is: '1400', told: '1500' });
  });

  it('never throws, whatever a box says', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (text) => void readDrift(site, text)));
  });
});

const head = 'trace id 3ab5 inet gate';
const packet = 'iif "p3" oif "p1" ip saddr 10.61.20.50 ip daddr 192.0.2.80 icmp type echo-request';

describe('a real packet, as nft tells it', () => {
  it('is decided by the statement that let it, not by the one that says as whom it leaves', () => {
    const trace = readTrace(`${head} sources packet: iif "p3" ip saddr 10.61.20.50 ip daddr 192.0.2.80
trace id 77 inet gate sources packet: iif "p8" ip saddr 10.9.9.9 ip daddr 10.9.9.8
${head} forward packet: ${packet}
${head} from/studio rule oifname @zone/world accept comment "passage studio > world" (verdict accept)
${head} showing rule oifname "p1" snat ip to 198.51.100.18 comment "leave any > world" (verdict accept)
`);
    expect(trace).to.deep.include({ verdict: 'passed', by: 'passage studio > world' });
    expect(trace!.packet).to.deep.equal({
      from: '10.61.20.50',
      to: '192.0.2.80',
      arrivedBy: 'p3',
      leftBy: 'p1',
    });
  });

  it('is dropped by a statement, rejected by one, or let by none', () => {
    const of = (lines: string) => readTrace(lines.replaceAll('T', head));
    expect(
      of(`T forward packet: ${packet}\nT from/a rule drop comment "passage a > b" (verdict drop)\n`),
    ).to.include({
      verdict: 'dropped',
      by: 'passage a > b',
    });
    expect(
      of(
        `T forward packet: ${packet}\nT from/a rule reject with icmpx admin-prohibited comment "passage a > b" (verdict drop)\n`,
      ),
    ).to.include({ verdict: 'rejected', by: 'passage a > b' });
    expect(of(`T forward packet: ${packet}\nT forward policy drop\n`)).to.deep.include({
      verdict: 'dropped',
      by: undefined,
    });
    expect(
      of(
        `T input packet: ${packet}\nT answers/x rule accept comment "interface x: answers ping" (verdict accept)\n`,
      ),
    ).to.include({
      verdict: 'answered',
      by: 'interface x: answers ping',
    });
    const later = of(
      `T forward packet: ${packet}\nT forward rule ct state established,related accept (verdict accept)\n`,
    );
    expect(later).to.include({ verdict: 'passed', by: undefined, isOfFlow: true });
    expect(realTraceText(later!)).to.match(/it is of a flow that was let when it began$/);
    // Ours lets it, and a table of somebody else stops it behind that; one that stops nothing has no say.
    const theirs = of(
      `T forward packet: ${packet}\nT from/a rule accept comment "passage a > b" (verdict accept)\ntrace id 3ab5 ip quiet fwd rule tcp dport 1 drop\ntrace id 3ab5 ip quiet fwd policy accept\ntrace id 3ab5 ip theirs fwd rule ip daddr 192.0.2.80 drop comment "x" (verdict drop)\n`,
    );
    expect(theirs).to.include({ verdict: 'dropped', by: undefined, foreign: 'ip theirs fwd' });
    expect(realTraceText(theirs!)).to.match(/dropped: by somebody else’s chain, ip theirs fwd/);
    expect(readTrace('')).to.equal(undefined);
  });

  it('never throws, whatever is traced', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (text) => void readTrace(`${head} ${text}`)));
  });
});
