/**
 * A site for the reach: 40 zones, 400 interfaces in 12 tables, 3,000 passages and 200 doors. With `fifth` every fifth
 * inside network has a station, and is on the box or behind a router inside.
 */
export function wide(passages = 3000, fifth?: 'on the box' | 'behind'): string {
  const out = ['box wide: names 192.0.2.53', 'zone world: upstream'];
  for (let z = 0; z < 39; z++) out.push(`zone z${z}:${z % 7 === 0 ? ' dmz' : ''}`);
  for (let t = 1; t < 12; t++) out.push(`table t${t}:`);
  for (let t = 0; t < 12; t++)
    out.push(
      `interface up${t}: on p1 tag ${10 + t}, zone world${t ? `, table t${t}` : ''}, address 198.51.${100 + t}.2/24, gateway .1, guard`,
    );
  const legs: string[] = [];
  const routes: string[] = [];
  const stations: string[] = [];
  for (let i = 0; i < 388; i++) {
    const t = i % 12;
    const net = `10.${64 + (i >> 8)}.${i & 255}`;
    if (fifth === 'on the box' && i % 5 === 4)
      stations.push(
        `station s${i}: at p${2 + (i % 22)} tag ${100 + i}, address ${net}.10/24, gateway .1, listens tcp 443`,
      );
    if (fifth === 'behind' && i % 5 === 4) {
      legs.push(`leg hub tag ${100 + i} ${net}.1/24`);
      routes.push(`route ${net}.0/24 via 10.99.0.2`);
      stations.push(`station s${i}: at hub/${i + 1}, address ${net}.10/24, gateway .1, listens tcp 443`);
      continue;
    }
    out.push(
      `interface v${i}: on p${2 + (i % 22)} tag ${100 + i}, zone z${i % 39}${t ? `, table t${t}` : ''}, address 10.${64 + (i >> 8)}.${i & 255}.1/24, answers ping`,
    );
  }
  if (fifth === 'behind')
    out.push(
      'interface transit: on p24 tag 99, zone z0, address 10.99.0.1/24, answers ping',
      `table main: ${routes.join(', ')}`,
      `switch hub: at p24, carries 99, ${stations
        .map((s) => /hub\/(\d+)/.exec(s)![1]!)
        .map((jack) => `jack ${jack} tag ${99 + Number(jack)}`)
        .join(', ')}`,
      `router hall: leg hub tag 99 10.99.0.2/24, ${legs.join(', ')}, gateway 10.99.0.1`,
    );
  out.push(...stations);
  const services = ['', ' ping', ' tcp 80 443', ' ssh', ' dns', ' tcp 8000-8010', ' udp 5060'];
  for (let n = 0; n < passages; n++) {
    const [a, b] = [n % 39, (n * 7 + (n >> 5)) % 39];
    const to = n % 9 === 0 ? `, to 10.${64 + ((n % 388) >> 8)}.${n % 256}.${10 + (n % 100)}` : '';
    const from = n % 11 === 0 ? `, from 10.${64 + ((n % 388) >> 8)}.${n % 256}.0/25` : '';
    out.push(
      `passage z${a} > ${n % 13 === 0 ? 'world' : `z${b}`}: ${n % 17 === 0 ? 'drop' : 'allow'}${services[n % 7]}${from}${to}`,
    );
  }
  for (let d = 0; d < 200; d++) {
    const t = d % 12;
    const inside = (d * 12 + t) % 388;
    const own = inside - (inside % 12) + t < 388 ? inside - (inside % 12) + t : t;
    out.push(
      `door d${d}: 198.51.${100 + t}.${10 + (d % 90)} tcp ${4000 + d} > 10.${64 + (own >> 8)}.${own & 255}.10 tcp 443`,
    );
  }
  out.push('leave any > world: as interface', '');
  return out.join('\n');
}

/** A site of 24 ports, 40 zones, and many VLAN interfaces on its trunks. */
export function large(vlans: number): string {
  const out = ['box big: names 192.0.2.53, time 192.0.2.123, serves names', 'zone world: upstream'];
  for (let z = 0; z < 40; z++) out.push(`zone z${z}:`);
  out.push('interface line: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard');
  for (let i = 0; i < vlans; i++)
    out.push(
      `interface v${i}: on p${2 + (i % 23)} tag ${100 + i}, zone z${i % 40}, address 10.${64 + (i >> 8)}.${i & 255}.1/24, lends .50-.199, answers ping dns`,
    );
  for (let z = 0; z < 40; z++) out.push(`passage z${z} > world: allow`);
  out.push('leave any > world: as interface', '');
  return out.join('\n');
}
