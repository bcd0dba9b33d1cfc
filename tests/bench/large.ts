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
