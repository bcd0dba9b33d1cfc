import { expect } from 'chai';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { formatIp } from '#core/addr';
import { modelOf } from '#core/model';
import { parseDocument } from '#core/notation';
import { captureFlow } from '#core/proof';
import { Reach } from '#core/reach';
import { buildSite } from '#core/site';
import { readCapture, writePcapng } from './index';

const site = buildSite(
  ['box', 'wiring'].map((n) => parseDocument(readFileSync(`demo/${n}.gate`, 'utf8'), `${n}.gate`)),
);
/** The frames of one flow on the cables of the box, as real bytes. */
const framesOf = (from: string, to: string, service: string) => {
  const { statements } = parseDocument(`passage a > b: allow ${service}`, '');
  const passage = statements[0]!;
  const services = passage.kind === 'passage' ? passage.services : undefined;
  return captureFlow(new Reach(modelOf(site)), { from, to, service: services }).frames;
};
const told = (bytes: Uint8Array) =>
  readCapture(bytes)!.flows.map((f) => `${formatIp(f.source)} > ${formatIp(f.destination)} ${f.service}`);

/** The same frames as the older form of file, in either byte order. */
function pcap(
  frames: readonly { readonly bytes: Uint8Array }[],
  little: boolean,
  cut = Infinity,
): Uint8Array {
  const out: number[] = [];
  const u32 = (v: number) => {
    const b = [v & 255, (v >>> 8) & 255, (v >>> 16) & 255, v >>> 24];
    out.push(...(little ? b : b.reverse()));
  };
  for (const v of [0xa1b2c3d4, little ? 0x00040002 : 0x00020004, 0, 0, 65535, 1]) u32(v);
  for (const { bytes } of frames) {
    const kept = bytes.subarray(0, cut);
    for (const v of [1, 0, kept.length, bytes.length]) u32(v);
    out.push(...kept);
  }
  return new Uint8Array(out);
}

describe('a capture', () => {
  const web = framesOf('wheel-pc', 'www.example', 'tcp 443');
  const names = framesOf('kiln-one', 'dns1.example', 'udp 53');

  it('is read back into who began what with whom, inside the box and outside of it', () => {
    expect(told(writePcapng(web))).to.deep.equal([
      '10.61.20.50 > 192.0.2.80 tcp 443',
      '198.51.100.19 > 192.0.2.80 tcp 443',
    ]);
    expect(readCapture(writePcapng(web))!.flows[0]!.frames).to.be.greaterThan(1);
    expect(told(writePcapng(framesOf('wheel-pc', 'www.example', 'ping')))[0]).to.equal(
      '10.61.20.50 > 192.0.2.80 ping',
    );
    expect(names.length).to.be.greaterThan(0);
  });

  it('reads the older form in both byte orders, tagged frames, and frames that are cut short', () => {
    const whole = told(writePcapng(web));
    for (const little of [true, false]) {
      expect(told(pcap(web, little))).to.deep.equal(whole);
      expect(told(pcap(web, little, 58))).to.deep.equal(whole);
    }
    // Seen from the answer on, the one who is asked is still the one with the known port.
    const answered = web.filter((f) => f.port === 'p1').slice(1);
    expect(told(pcap(answered, true))).to.deep.equal(['198.51.100.19 > 192.0.2.80 tcp 443']);
  });

  it('never throws, whatever the bytes are and wherever they end', () => {
    const good = [writePcapng(web), pcap(web, true), pcap(web, false)];
    fc.assert(
      fc.property(
        fc.constantFrom(...good),
        fc.nat(),
        fc.array(fc.tuple(fc.nat(), fc.integer({ min: 0, max: 255 })), { maxLength: 6 }),
        (file, end, damage) => {
          const bytes = file.slice(0, end % (file.length + 1));
          for (const [at, value] of damage) if (bytes.length) bytes[at % bytes.length] = value;
          const read = readCapture(bytes);
          expect(read === undefined || read.frames >= read.left).to.equal(true);
        },
      ),
      { numRuns: 500 },
    );
    expect(readCapture(new Uint8Array(0))).to.equal(undefined);
    expect(readCapture(new TextEncoder().encode('zone office: with a long enough text'))).to.equal(undefined);
  });
});
