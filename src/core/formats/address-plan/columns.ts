/** Which column of a sheet is what, by its head in several languages, else by what stands in it. */
import { parseAnyMac, parseIpv4, parsePrefix } from '#core/addr';

export const PLAN_COLUMNS = [
  'name',
  'tag',
  'subnet',
  'mask',
  'gateway',
  'pool',
  'pool-start',
  'pool-end',
  'zone',
  'note',
  'mac',
  'address',
  'host',
] as const;
export type PlanColumn = (typeof PLAN_COLUMNS)[number];

/** Which column of the sheet, 0 the first, holds what. */
export type Columns = Readonly<Partial<Record<PlanColumn, number>>>;

/** Heads in English, German, French, Spanish, Italian, Dutch, Portuguese and Swedish, bare of signs and accents. */
const HEADS: Readonly<Record<PlanColumn, string>> = {
  name: 'name networkname netname vlanname segment netzname netzwerkname bezeichnung nom nomreseau nombre nombrered nome nomerete naam netwerknaam namn natnamn',
  tag: 'vlan vlanid vid tag vlantag vlannr vlannummer vlannumber numerovlan idvlan 8021q',
  subnet:
    'subnet network net prefix cidr iprange subnetcidr netz netzwerk subnetz netzadresse reseau sousreseau red subred rete sottorete netwerk subnetwerk rede subrede nat natverk',
  mask: 'mask netmask subnetmask maske netzmaske subnetzmaske masque masquereseau mascara mascaradered maschera netmasker subnetmasker natmask',
  gateway:
    'gateway gw defaultgateway router standardgateway vorgabegateway passerelle puertadeenlace pasarela gatewaypredefinito standaardgateway gatewaypadrao boxaddress routerip gatewayip',
  pool: 'pool dhcp dhcppool dhcprange range lease leases dhcpbereich bereich plage plagedhcp rango rangodhcp intervallo intervallodhcp bereik dhcpbereik intervalo dhcpomrade',
  'pool-start':
    'poolstart dhcpstart start rangestart dhcpfrom poolfrom first von dhcpvon debut debutdhcp inicio iniciodhcp inizio iniziodhcp vanaf',
  'pool-end':
    'poolend dhcpend end rangeend dhcpto poolto last bis dhcpbis fin findhcp fim fine finedhcp tot einde',
  zone: 'zone securityzone sicherheitszone zona zonasicurezza zonadeseguridad zonedesecurite beveiligingszone',
  note: 'note notes remark remarks comment comments description purpose use bemerkung beschreibung zweck kommentar remarque commentaire nota notas comentario descripcion descrizione opmerking omschrijving',
  mac: 'mac macaddress hardwareaddress ethernetaddress macadresse adressemac direccionmac indirizzomac macadres hwaddr hwaddress',
  address:
    'ip ipaddress ipv4 ipv4address address reservedip reservation adresse ipadresse adresseip direccion direccionip indirizzo indirizzoip adres ipadres endereco enderecoip',
  host: 'host hostname device client machine geraet gerat rechner appareil hote dispositivo equipo apparaat toestel maskin enhet',
};

const BY_HEAD = new Map(
  PLAN_COLUMNS.flatMap((column) => HEADS[column].split(' ').map((head) => [head, column] as const)),
);

/** A head bare of accents, signs and case. */
export const bareHead = (head: string): string =>
  head
    .normalize('NFKD')
    .replace(/[̀-ͯ]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]/g, '');

/** The columns that the heads of a row name; the first of two with one meaning counts. */
export function columnsByHead(row: readonly string[]): Columns {
  const out: Partial<Record<PlanColumn, number>> = {};
  for (const [i, head] of row.entries()) {
    const column = BY_HEAD.get(bareHead(head));
    if (column !== undefined) out[column] ??= i;
  }
  return settled(out);
}

/** In a sheet of devices the name is the device's, and the address its own. */
function settled(columns: Partial<Record<PlanColumn, number>>): Columns {
  const { mac, host, name, ...rest } = columns;
  if (mac === undefined) return columns;
  return host === undefined && name !== undefined ? { ...rest, mac, host: name } : columns;
}

/** How much of a column must look like something to be taken for it. */
const MOST = 0.6;

/** The columns by what stands in them, where a sheet has no heads. */
export function columnsByContent(rows: readonly (readonly string[])[]): Columns {
  const width = rows.reduce((most, r) => Math.max(most, r.length), 0);
  const out: Partial<Record<PlanColumn, number>> = {};
  const looks: readonly (readonly [PlanColumn, (cell: string) => boolean])[] = [
    ['mac', (c) => parseAnyMac(c) !== undefined],
    ['subnet', (c) => parsePrefix(c) !== undefined],
    ['pool', (c) => /^[.\d]+\s*[-–]\s*[.\d]+$/.test(c)],
    ['tag', (c) => /^\d{1,4}$/.test(c) && Number(c) >= 1 && Number(c) <= 4094],
    ['gateway', (c) => parseIpv4(c) !== undefined],
    ['name', (c) => /^\p{L}[\p{L}\d _-]*$/u.test(c)],
  ];
  for (const [column, fits] of looks)
    for (let i = 0; i < width && out[column] === undefined; i++) {
      if (Object.values(out).includes(i)) continue;
      const cells = rows.map((r) => r[i]?.trim() ?? '').filter((c) => c !== '');
      if (cells.length && cells.filter(fits).length / cells.length >= MOST) out[column] = i;
    }
  if (out.mac !== undefined && out.gateway !== undefined) {
    const { gateway, ...rest } = out;
    return settled({ ...rest, address: gateway });
  }
  return settled(out);
}
