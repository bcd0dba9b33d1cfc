import { expect } from 'chai';
import { FORMS } from '#core/edits';
import { CLAUSES, KINDS } from '#core/notation';
import { GLOSSARY, KIND_LABELS, fieldLabel, glossaryFor, optionLabel, slotLabel, wantsFor } from './index';
import { slotsOf } from '#core/edits';

describe('words of the trade', () => {
  it('find what is wanted, the likeliest first', () => {
    const cases: readonly (readonly [string, string])[] = [
      ['port forward', 'publish'],
      ['forward port 443 to the web server', 'publish'],
      ['DNAT', 'publish'],
      ['nat outbound', 'leave-as'],
      ['source NAT', 'leave-as'],
      ['masquerade', 'leave-as'],
      ['reserve', 'reservation'],
      ['static lease', 'reservation'],
      ['add a VLAN', 'network'],
      ['vlan 70', 'network'],
      ['dhcp pool', 'network'],
      ['dmz', 'network'],
      ['second WAN', 'uplink'],
      ['failover line', 'uplink'],
      ['PPPoE', 'uplink'],
      ['management access', 'management'],
      ['secondary subnet', 'second-subnet'],
      ['pool is full', 'second-subnet'],
      ['firewall rule', 'passage'],
      ['allow traffic', 'passage'],
      ['VRF', 'table'],
      ['policy routing', 'send'],
    ];
    for (const [line, id] of cases) expect(wantsFor(line)[0], line).to.equal(id);
    expect(wantsFor('xyzzy')).to.deep.equal([]);
    expect(wantsFor('to the')).to.deep.equal([]);
  });

  it('find words of ours in the glossary, and each clause by its own name', () => {
    expect(glossaryFor('port forwarding')[0]!.word).to.equal('door');
    expect(glossaryFor('static lease')[0]!.word).to.equal('keeps');
    expect(glossaryFor('confirmed commit')[0]!.word).to.equal('trial');
    expect(glossaryFor('load balancing')[0]!.word).to.equal('share');
    expect(glossaryFor('cold standby')[0]!.word).to.equal('on-demand');
    expect(glossaryFor('DHCP scope')[0]!.word).to.equal('lends');
    expect(glossaryFor('WAN').map((e) => e.word)).to.include('upstream');
    expect(glossaryFor('')).to.equal(GLOSSARY);
    expect(new Set(GLOSSARY.map((e) => e.word)).size).to.equal(GLOSSARY.length);
  });

  it('every field, way and slot of every kind has a label of its own', () => {
    const bare: string[] = [];
    for (const kind of KINDS) {
      expect(KIND_LABELS[kind]).to.not.equal('');
      for (const field of FORMS[kind]) {
        const { says, about } = fieldLabel(kind, field);
        if (!about || says === field.key) bare.push(`${kind} ${field.key}`);
        if (field.options.length > 1)
          for (const o of field.options)
            if (
              optionLabel(field, o) === o.key &&
              !/^(auto|none|off|learned|static|address|management|loopback|reaches)$/.test(o.key)
            )
              bare.push(`${kind} ${field.key}/${o.key}`);
        const ours: readonly string[] = CLAUSES[kind];
        for (const s of field.options.flatMap(slotsOf))
          if (slotLabel(kind, field, s) === s.key && s.key.includes('-') && !ours.includes(s.key))
            bare.push(`${kind} ${field.key} ${s.key}`);
      }
    }
    expect(bare).to.deep.equal([]);
  });
});
