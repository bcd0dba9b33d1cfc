import { expect } from 'chai';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { formatIp, formatPrefix, formatServices, mustIpv4 } from '#core/addr';
import { anyStatement, anyText } from '#core/testkit';
import {
  CLAUSES,
  KINDS,
  applyEdits,
  complete,
  composeEdits,
  diffEdits,
  insertStatement,
  invertEdits,
  parseDocument,
  printDocument,
  printStatement,
  removeStatement,
  rewriteStatement,
  written,
} from './index';
import type { AddressSource, ClauseOp, StatementOf } from './index';

const read = (text: string) => parseDocument(text, 't');
const iface = (text: string) => read(text).statements[0] as StatementOf<'interface'>;
/** A statement's clauses and header as plain words, for comparing what was read. */
const words = (text: string) =>
  read(text).statements.map((s) => [
    s.kind,
    written(s).header.map((t) => t.value),
    written(s).clauses.map((c) => c.words.map((w) => w.value)),
  ]);

describe('the gate notation', () => {
  it('reads the example of the contract without a problem', () => {
    const notation = readFileSync('docs/notation.md', 'utf8');
    const example = /```\n(# box file[\s\S]*?)```/.exec(notation)![1]!;
    const document = read(example);
    expect(document.problems).to.deep.equal([]);
    expect(document.statements).to.have.length(26);
    const fibre = document.statements.find(
      (s) => s.subject === 'interface/fibre',
    ) as StatementOf<'interface'>;
    expect(fibre.also.map((a) => [formatIp(a.value.range.first), a.value.length])).to.deep.equal([
      ['198.51.100.19', 29],
    ]);
    expect(fibre.gateway?.value).to.include({ by: 'address' });
    const door = document.statements.find((s) => s.kind === 'door')!;
    expect([formatServices(door.services), formatServices(door.insideServices!)]).to.deep.equal([
      'https',
      'tcp 8443',
    ]);
  });

  it('places every fault by line and column, says what was expected, and proposes what is likely', () => {
    const rows: [
      text: string,
      at: string,
      code: string,
      expected: RegExp,
      proposal: string | undefined,
      why: string,
    ][] = [
      [
        'interface lan: on p2, gatewey 10.0.0.1',
        '1:23',
        'syntax',
        /a clause of interface/,
        'gateway',
        'a mistyped clause',
      ],
      [
        'zone inside:drop',
        '1:6',
        'syntax',
        /a space behind the colon/,
        'inside: drop',
        'no space behind the colon',
      ],
      ['zone inside', '1:6', 'syntax', /a colon/, 'inside:', 'no colon at all'],
      ['zone Inside:', '1:6', 'syntax', /a name of up to 15/, 'inside', 'capitals'],
      ['zone any:', '1:6', 'name-reserved', /^$/, undefined, 'a word of the notation'],
      ['zoen lab:', '1:1', 'syntax', /a statement/, 'zone', 'a mistyped kind'],
      ['zone lab:\nupstream', '2:1', 'syntax', /indented/, '  upstream', 'a clause at column 1'],
      ['  zone lab:', '1:3', 'syntax', /start of the line/, undefined, 'white space and nothing above'],
      ['zone lab: upstream, , dmz', '1:21', 'syntax', /before the comma/, '', 'an empty clause'],
      ['zone lab: dmz, dmz', '1:16', 'syntax', /once/, undefined, 'a repeat'],
      ['port p1: label "half', '1:16', 'syntax', /closing double quote/, undefined, 'a text without end'],
      ['interface a: on p1 tag 4095', '1:24', 'tag-range', /^$/, undefined, 'a tag that is reserved'],
      [
        'interface a: address 10.1.1.1',
        '1:22',
        'mask-missing',
        /^$/,
        undefined,
        'never a guess from classes',
      ],
      [
        'interface a: address 10.1.1.1 mask 255.0.255.0',
        '1:36',
        'mask-invalid',
        /^$/,
        undefined,
        'a mask with holes',
      ],
      ['interface a: address 10.1.1.1/33', '1:22', 'mask-invalid', /^$/, undefined, 'a length too long'],
      [
        'interface a: address 10.1.1.1/24, lends .9-.2',
        '1:41',
        'lends-empty',
        /^$/,
        '10.1.1.2-10.1.1.9',
        'a pool backwards',
      ],
      [
        'known k: 10.0.0.9-10.0.0.1',
        '1:10',
        'range-reversed',
        /^$/,
        '10.0.0.1-10.0.0.9',
        'a range backwards',
      ],
      [
        'known k: 10.0.0.1/24',
        '1:10',
        'syntax',
        /host bits are zero: 10.0.0.0\/24/,
        '10.0.0.0/24',
        'host bits in a network',
      ],
      ['interface a: address 010.0.0.1/24', '1:22', 'syntax', /an address/, undefined, 'an octal octet'],
      [
        'interface a: address by dhcp, also .19',
        '1:36',
        'syntax',
        /a full address/,
        undefined,
        'nothing to be short for',
      ],
      [
        'interface a: address 198.51.100.18/29, also .40',
        '1:45',
        'syntax',
        /inside 198.51.100.16\/29/,
        '198.51.100.40',
        'short and outside',
      ],
      ['expect a reaches b,', '1:19', 'syntax', /no comma/, undefined, 'a comma in a promise'],
      ['passage a b: allow', '1:11', 'syntax', /`>`/, undefined, 'no arrow'],
      ['leave any > world:', '1:1', 'syntax', /one of `as interface`/, undefined, 'no way of leaving'],
      ['passage a > b: permit', '1:16', 'syntax', /a clause of passage/, undefined, 'another word for allow'],
      ['station s: at core/x', '1:15', 'syntax', /a jack such as/, undefined, 'a jack without number'],
    ];
    for (const [text, at, code, expected, proposal, why] of rows) {
      const p = read(text).problems.find((x) => x.code === code);
      expect(p, `${why}: ${text}`).to.not.equal(undefined);
      expect(`${p!.at.line}:${p!.at.column}`, why).to.equal(at);
      expect(p?.code === 'syntax' ? p.values.expected : '', why).to.match(expected);
      expect(p!.proposal?.text, why).to.equal(proposal);
    }
  });

  it('lets one bad statement hide no other, and keeps its kind and name', () => {
    const d = read('zone a:\nzone b drop\nzone c: upstreem, dmz\nfoo\nzone d:\n');
    expect(d.statements.map((s) => s.subject)).to.deep.equal(['zone/a', 'zone/b', 'zone/c', 'zone/d']);
    expect(d.statements.map((s) => s.broken)).to.deep.equal([false, true, true, false]);
    expect((d.statements[2] as StatementOf<'zone'>).dmz).to.not.equal(undefined);
  });

  it('continues over indented lines and comments, and ends at an empty line', () => {
    const d = read(
      'interface a: on p1,\n# a remark at column 1\n  zone\n\tlab, # why\n  address\n  10.0.0.1/24\n\n  guard\n',
    );
    const a = d.statements[0] as StatementOf<'interface'>;
    expect([
      a.zone?.name,
      formatPrefix((a.address!.value as Extract<AddressSource, { by: 'static' }>).prefix),
    ]).to.deep.equal(['lab', '10.0.0.1/24']);
    expect(d.problems.map((p) => p.at.line)).to.deep.equal([8]);
  });

  it('reads a length or a mask wherever a length may stand', () => {
    for (const text of ['10.61.20.1/24', '10.61.20.1 mask 255.255.255.0'])
      expect(iface(`interface a: address ${text}`).address?.value).to.deep.include({
        by: 'static',
        prefix: { address: 171774977, length: 24 },
      });
  });

  it('takes the octets a short address lacks from its base', () => {
    const rows: [string, (s: StatementOf<'interface'>) => unknown, unknown, string][] = [
      [
        'interface a: lends .50-.199, address 10.61.20.1/24',
        (s) => s.lends[0]!.ranges.map((r) => formatIp(r.value.last)),
        ['10.61.20.199'],
        'the address is the base wherever it stands',
      ],
      [
        'interface a: address 10.61.20.1/23, lends .21.5-.9',
        (s) => s.lends[0]!.ranges.map((r) => [formatIp(r.value.first), formatIp(r.value.last)]),
        [['10.61.21.5', '10.61.21.9']],
        'two octets; the end leans on its start',
      ],
      [
        'interface a: address 10.61.20.1/24, also .2 .7/32',
        (s) => s.also.map((a) => a.value.length),
        [24, 32],
        'a short form takes the length unless it has one',
      ],
      [
        'interface a: address by dhcp, also 198.51.100.40/29, watch .41',
        (s) => s.watch.map((w) => formatIp(w.value)),
        ['198.51.100.41'],
        'without an address the first full one',
      ],
    ];
    for (const [text, pick, want, why] of rows) expect(pick(iface(text)), why).to.deep.equal(want);
    const circuit = read('circuit n: at p1, gateway .17, block 198.51.100.16/29')
      .statements[0] as StatementOf<'circuit'>;
    expect(formatIp(circuit.gateway!.value)).to.equal('198.51.100.17');
  });

  it('reads services as the contract spells them', () => {
    for (const [text, want] of [
      ['tcp 80 443 8000-8010 udp 53 ping', 'http https tcp 8000-8010 udp 53 ping'],
      ['tcp udp 53', 'tcp 53 udp 53'],
      ['tcp', 'tcp'],
      ['proto 50 icmp', 'proto 50 icmp'],
      ['dns', 'dns'],
    ] as const) {
      const s = read(`passage a > b: allow ${text}`).statements[0] as StatementOf<'passage'>;
      expect(formatServices(s.services)).to.equal(want);
    }
  });

  it('never throws, whatever the bytes, and keeps every statement of its own', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (text) => void read(text)));
    fc.assert(
      fc.property(
        anyText,
        fc.nat(),
        fc.nat(),
        fc.constantFrom('', '"', ',', ':', '>', '\n', '#', ' ', '/99', '.'),
        (text, at, size, put) => {
          const start = at % (text.length + 1);
          read(text.slice(0, start) + put + text.slice(Math.min(text.length, start + (size % 7))));
        },
      ),
      { numRuns: 400 },
    );
  });

  it('reads what changed of a text to the same document as the whole of it', () => {
    const pieces = [
      ...[
        '',
        ' ',
        '\n',
        '\r\n',
        '\ufeff',
        '#',
        ':',
        ',',
        '"',
        'x',
        '\n  ',
        '\n\n',
        '# note\n',
        '\n# note\n  ',
      ],
      ...[
        'interfce q: zone a\n',
        'zone q:\n',
        'zone q: within drop,\n  dmz\n',
        '  dmz\n',
        'expect a reaches b\n',
      ],
      ...['passage a > b: allow tcp 80\n', 'passage a > b: drop\n', 'leave a > b: as .9\n', 'zone "q#1":\n'],
    ];
    const edit = fc.tuple(fc.nat(), fc.constantFrom(0, 0, 1, 2, 9, 40), fc.constantFrom(...pieces));
    const base = fc.oneof(
      anyText,
      fc.array(fc.constantFrom(...pieces), { maxLength: 9 }).map((p) => p.join('')),
    );
    fc.assert(
      fc.property(base, fc.array(edit, { minLength: 1, maxLength: 5 }), (text, edits) => {
        let document = parseDocument(text, 'x');
        for (const [at, size, put] of edits) {
          const start = at % (document.text.length + 1);
          const next = document.text.slice(0, start) + put + document.text.slice(start + size);
          document = parseDocument(next, 'x', document);
          expect(document).to.deep.equal(parseDocument(next, 'x'));
        }
      }),
      { numRuns: 600 },
    );
  });

  it('prints what reads the same, and prints that alike again', () => {
    fc.assert(
      fc.property(anyText, (text) => {
        const once = printDocument(read(text));
        expect(printDocument(read(once))).to.equal(once);
        const plain = (t: string) =>
          JSON.stringify(words(t))
            .replace(/","mask","255\.255\.255\.0"/g, '/24"')
            .replace(/","mask","255\.255\.255\.248"/g, '/29"');
        expect(plain(once)).to.equal(plain(text));
      }),
    );
    expect(printStatement(read('zone   lab :  within   drop').statements[0]!)).to.equal(
      'zone lab: within drop',
    );
  });
});

describe('rewriting', () => {
  const rewrite = (text: string, ops: readonly ClauseOp[], nth = 0) => {
    const d = read(text);
    return applyEdits(text, rewriteStatement(d, d.statements[nth]!, ops));
  };

  it('changes the touched clause and no other byte', () => {
    const text =
      '# top\r\nzone  a :\r\ninterface x:  on p1 ,   # cable\r\n  zone a,address 10.0.0.1/24 # here\r\n# end\r\n';
    expect(rewrite(text, [{ do: 'set', name: 'zone', text: 'zone b' }], 1)).to.equal(
      text.replace('zone a,', 'zone b,'),
    );
    expect(rewrite(text, [{ do: 'remove', name: 'zone' }], 1)).to.equal(text.replace('zone a,', ''));
    expect(rewrite(text, [{ do: 'add', text: 'guard' }], 1)).to.equal(
      text.replace('10.0.0.1/24', '10.0.0.1/24, guard'),
    );
  });

  it('leaves a readable statement whichever clause goes', () => {
    const text =
      'interface x: on p1, # one\n  zone a, # two\n  # between\n  address 10.0.0.1/24,\n  guard\nzone a:\n';
    for (const name of ['on', 'zone', 'address', 'guard']) {
      const after = read(rewrite(text, [{ do: 'remove', name }]));
      expect(after.problems, name).to.deep.equal([]);
      expect(after.statements, name).to.have.length(2);
      expect(written(after.statements[0]!).clauses.map((c) => c.name)).to.deep.equal(
        ['on', 'zone', 'address', 'guard'].filter((n) => n !== name),
      );
    }
    expect(rewrite('zone a: dmz', [{ do: 'remove', name: 'dmz' }])).to.equal('zone a:');
  });

  it('keeps the value of short addresses when their base changes, unless they are to follow', () => {
    const text = 'interface x: address 10.61.20.1/24, lends .50-.199, gateway .9';
    const moved = rewrite(text, [{ do: 'set', name: 'address', text: 'address 10.61.30.1/24' }]);
    expect(moved).to.equal('interface x: address 10.61.30.1/24, lends 10.61.20.50-.199, gateway 10.61.20.9');
    const d = read(text);
    const followed = rewriteStatement(
      d,
      d.statements[0]!,
      [{ do: 'set', name: 'address', text: 'address 10.61.30.1/24' }],
      { follow: true },
    );
    expect(applyEdits(text, followed)).to.equal(text.replace('20.1', '30.1'));
    expect(rewrite(text, [{ do: 'remove', name: 'address' }])).to.contain('10.61.20.50-.199');
  });

  it('writes masks as lengths when it touches a statement', () => {
    expect(
      rewrite('interface x: address 10.0.0.1 mask 255.255.255.0, zone a', [
        { do: 'set', name: 'zone', text: 'zone b' },
      ]),
    ).to.equal('interface x: address 10.0.0.1/24, zone b');
  });

  it('holds parse∘rewrite = edit over generated statements', () => {
    fc.assert(
      fc.property(fc.array(anyStatement, { minLength: 1, maxLength: 4 }), fc.nat(), (list, pick) => {
        const text = `# head\n${list.join('\n')}\n# tail\n`;
        const d = read(text);
        const s = d.statements[pick % d.statements.length];
        if (!s || s.kind !== 'interface' || s.broken) return;
        const after = applyEdits(
          text,
          rewriteStatement(d, s, [{ do: 'set', name: 'zone', text: 'zone moved' }]),
        );
        const now = read(after);
        expect(now.statements.map((x) => x.subject)).to.deep.equal(d.statements.map((x) => x.subject));
        const t = now.statements[s.index] as StatementOf<'interface'>;
        expect(t.zone?.name).to.equal('moved');
        expect(after.startsWith(text.slice(0, s.start)) && after.endsWith(text.slice(s.end))).to.equal(true);
        const rest = (x: StatementOf<'interface'>) => [
          x.carrier?.ports[0]?.name,
          x.also.map((a) => a.value),
          x.lends.map((l) => l.ranges.map((r) => r.value)),
          x.guard !== undefined,
        ];
        expect(rest(t)).to.deep.equal(rest(s));
      }),
    );
  });

  it('puts new statements where their like stand, with the line ending of the file', () => {
    const text = 'zone a:\r\ninterface x: on p1\r\n\r\n# rest\r\npassage a > b: allow';
    const into = (kind: 'zone' | 'passage' | 'box', t: string) =>
      applyEdits(text, insertStatement(read(text), kind, t));
    expect(into('zone', 'zone b:')).to.equal(text.replace('zone a:\r\n', 'zone a:\r\nzone b:\r\n'));
    expect(into('passage', 'passage b > a: drop')).to.equal(`${text}\r\npassage b > a: drop\r\n`);
    expect(into('box', 'box b:')).to.equal(`box b:\r\n${text}`);
    const d = read(text);
    expect(applyEdits(text, removeStatement(d, d.statements[1]!))).to.equal(
      'zone a:\r\n\r\n# rest\r\npassage a > b: allow',
    );
  });
});

describe('text changes', () => {
  const anyEdits = fc
    .tuple(
      fc.string({ maxLength: 40 }),
      fc.array(fc.tuple(fc.nat(40), fc.nat(5), fc.string({ maxLength: 4 })), { maxLength: 4 }),
    )
    .map(([text, raw]) => {
      let at = 0;
      const edits = raw
        .sort((a, b) => a[0] - b[0])
        .flatMap(([start, size, put]) => {
          const s = Math.max(start, at);
          if (s > text.length) return [];
          const end = Math.min(text.length, s + size);
          at = end;
          return [{ start: s, end, text: put }];
        });
      return { text, edits };
    });

  it('undo what they did, and compose', () => {
    fc.assert(
      fc.property(anyEdits, fc.string({ maxLength: 30 }), ({ text, edits }, third) => {
        const after = applyEdits(text, edits);
        expect(applyEdits(after, invertEdits(text, edits))).to.equal(text);
        const second = diffEdits(after, third);
        expect(applyEdits(text, composeEdits(text, edits, second))).to.equal(third);
      }),
    );
  });

  it('refuse edits that overlap or reach past the end, as misuse', () => {
    expect(() => applyEdits('abc', [{ start: 2, end: 4, text: '' }])).to.throw(RangeError);
    expect(() =>
      applyEdits('abc', [
        { start: 1, end: 2, text: '' },
        { start: 0, end: 1, text: '' },
      ]),
    ).to.throw(RangeError);
  });
});

describe('statements that came later', () => {
  const read = (text: string) => parseDocument(text, 'x.gate');
  const faults = (text: string) => read(text).problems.map((p) => p.code);

  it('leave their words free as names, and the old files mean what they meant', () => {
    const old = read(
      'interface router: on p1\nknown record: 10.0.0.1\npassage a > b: allow, from router record, to b\n',
    );
    expect(old.problems).to.deep.equal([]);
    const passage = old.statements.find((s) => s.kind === 'passage')!;
    expect(passage.sources.map((w) => (w.type === 'name' ? [w.name, w.kind] : w.type))).to.deep.equal([
      ['router', undefined],
      ['record', undefined],
    ]);
  });

  it('a leg leans on its own address, and a rewrite of another leaves it alone', () => {
    const text =
      'router r: leg core tag 20 10.61.20.2/24 lends .50-.60, leg core/3 10.61.30.1/24 lends .70-.80 names .1\n';
    const s = read(text).statements[0] as StatementOf<'router'>;
    expect(
      s.legs.map(({ value: { lends } }) => [lends!.ranges[0]!.value.first, lends!.names[0]?.value]),
    ).to.deep.equal([
      [mustIpv4('10.61.20.50'), undefined],
      [mustIpv4('10.61.30.70'), mustIpv4('10.61.30.1')],
    ]);
    const edits = rewriteStatement(read(text), s, [
      { do: 'set', name: 'leg', nth: 0, text: 'leg core tag 20 10.61.40.2/24' },
    ]);
    expect(applyEdits(text, edits)).to.contain('leg core/3 10.61.30.1/24 lends .70-.80 names .1');
  });

  it('say what they want', () => {
    for (const [text, why] of [
      ['switch s: jack 1', 'a jack without VLAN'],
      ['router r: leg core/1 2001:db8::1/64', 'IPv4'],
      ['port u: over', 'no ports'],
      ['port u: over p1 by magic', 'an unknown mode'],
      ['interface i: on p1, option 300 1', 'no such number'],
      ['interface i: on p1, option ntp', 'no value'],
      ['interface i: on p1, option ntp 2001:db8::1', 'IPv4'],
      ['interface i: on p1, option vendor zz', 'octets'],
      ['interface i: on p1, option search -a', 'a name'],
      ['leave ::53 of lan > w: as interface', 'no suffix here'],
      ['passage a > b: allow, to 2001:db8::53 of lan', 'more than a suffix'],
      ['leave 10.0.0.0/24 > w: as 10.1.0.0/25', 'unlike lengths'],
      ['leave any > w: as 10.1.0.0/25', 'nothing to map'],
      ['door d: 10.1.0.0/16 > 10.2.0.0/16', 'too many'],
      ['door d: 10.1.0.0/28 > 10.2.0.1', 'one for many'],
      ['record a.example:', 'no address'],
      ['box b: forwards 10.0.0.1', 'no domain'],
    ])
      expect(faults(`${text}\n`), why).to.include('syntax');
  });
});

describe('the tables of clauses', () => {
  /** Words in backquotes of a row of the page, each cut down to the clause that it begins with. */
  const said = (row: string) => [...row.matchAll(/`([a-z0-9-]+)(?=[\s`|\\…])/g)].map((m) => m[1]!);

  it('have each clause that the page of the notation has, and no other', () => {
    const page = readFileSync('docs/notation.md', 'utf8');
    const rows = page.split('\n').filter((line) => line.startsWith('| `'));
    const interfaces = page
      .slice(page.indexOf('### interface clauses'), page.indexOf('## Wiring statements'))
      .split('\n')
      .flatMap((line) =>
        line.startsWith('| `') ? said(`${line.split(' | ')[0]!} ${/`gateway6`/.exec(line)?.[0] ?? ''}`) : [],
      );
    for (const kind of KINDS.filter((k) => k !== 'expect')) {
      const row = rows.find((line) => line.startsWith(`| \`${kind} `))!;
      const known: ReadonlySet<string> = new Set(kind === 'interface' ? interfaces : said(row));
      for (const clause of CLAUSES[kind].filter((c) => c !== 'note'))
        expect([...known, ...row.split(/[^a-z0-9-]+/)], `${kind}: ${clause}`).to.include(clause);
      if (kind === 'interface')
        for (const clause of known)
          expect([...CLAUSES.interface, 'by', 'from'], `interface: ${clause}`).to.include(clause);
    }
  });
});

describe('completion', () => {
  const names = { zone: ['world', 'studio'], interface: ['fibre'], port: ['p1', 'p3'] };
  const at = (text: string) => complete(text, text.length, names).map((c) => c.insert);
  it('offers kinds, clauses, names and words where each may stand', () => {
    expect(at('inter')).to.deep.equal(['interface ']);
    expect(at('interface lab: gat')).to.deep.equal(['gateway', 'gateway6']);
    expect(at('interface lab: on p')).to.deep.equal(['p1', 'p3']);
    expect(at('interface lab: on p1, zone st')).to.deep.equal(['studio']);
    expect(at('interface lab: answers ping s')).to.deep.equal(['ssh', 'snmp']);
    expect(at('interface lab: on p1 t')).to.deep.equal(['tag']);
    expect(at('interface lab: answers ssh from st')).to.deep.equal(['studio']);
    expect(at('interface lab: lends .5-.9 for 1h g')).to.deep.equal(['gateway']);
    expect(at('table lab: route 10.1.0.0/16 by fi')).to.deep.equal(['fibre']);
    expect(at('passage stu')).to.deep.equal(['studio']);
    expect(at('expect studio rea')).to.deep.equal(['reaches']);
    expect(at('zone lab')).to.deep.equal([]);
    const twice = complete('passage lab', 11, {
      zone: ['lab-one'],
      interface: ['lab-one'],
      known: ['lab-one'],
    });
    expect(twice, 'a name of several kinds is offered once').to.have.length(1);
  });
});
