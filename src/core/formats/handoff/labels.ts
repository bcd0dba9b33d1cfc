/** The words by which providers label what is on their sheets, in four languages. */

/** What a label announces. */
export type Field =
  | 'address'
  | 'mask'
  | 'gateway'
  | 'names'
  | 'network'
  | 'usable'
  | 'broadcast'
  | 'time'
  | 'vlan'
  | 'user'
  | 'secret'
  | 'mtu'
  | 'routed'
  | 'ignore';

/** Patterns by field; all are tried on lower-case text without accents, and the longest match at a place wins. */
const PATTERNS: readonly (readonly [Field, string])[] = [
  [
    'gateway',
    'default gateways?|default routers?|default route|standard-?gateway|gateway(?: ip| address|-adresse)?|gate way|next[ -]hop|provider router|our router|router(?: ip| address)?|passerelle(?: par defaut)?|routeur|puerta de enlace(?: predeterminada)?|pasarela|gw|def\\.? gw|routeur operateur',
  ],
  [
    'mask',
    'subnet ?masks?|sub-net mask|net ?masks?|network mask|subnetzmaske|netzmaske|netz-?maske|maske|masque(?: de sous[- ]reseau| reseau)?|mascara(?: de (?:sub)?red)?|mask|prefix length|prafixlange|longueur de prefixe',
  ],
  [
    'names',
    '(?:primary|secondary|preferred|alternate|first|second|1st|2nd|bevorzugter|alternativer|primarer|sekundarer|erster|zweiter) (?:dns|name ?server|resolver)(?:[- ]server)?|dns[- ]?(?:servers?|resolvers?|primaire|secondaire|primario|secundario|[12])?(?: [12])?|name ?servers?(?: [12])?|nameserver|resolvers?|for names(?: use)?|serveurs? (?:dns|de noms)(?: (?:primaire|secondaire))?|servidor(?:es)? (?:de )?(?:dns|nombres)(?: (?:primario|secundario))?|ns[12]?',
  ],
  [
    'usable',
    'usable (?:ip )?(?:addresses|range|ips|hosts?)|usable|available (?:ips|addresses)|customer range|your range|nutzbare? (?:adressen|ips|ip-adressen|bereich)|nutzbar(?:er bereich)?|verwendbare? (?:adressen|ip-adressen)|adresses? (?:ip )?utilisables?|plage utilisable|utilisables?|direcciones (?:ip )?utilizables|rango utilizable|utilizables|ips disponibles',
  ],
  [
    'broadcast',
    'broadcast(?: address|-adresse)?|adresse de diffusion|direccion de difusion|difusion|diffusion',
  ],
  [
    'routed',
    'routed (?:block|subnet|network|prefix)|additional (?:block|subnet|network)|extra (?:block|subnet)|geroutetes (?:netz|subnetz)|zusatzliches (?:netz|subnetz)|bloc route|sous-reseau route|bloque enrutado|subred enrutada',
  ],
  [
    'network',
    'network(?: address| id)?|subnet(?: address)?|ip[- ](?:block|range|subnet|network|netz)|address block|public block|block|prefix|assigned (?:range|subnet|block|network)|netzwerk(?:adresse)?|netzadresse|subnetz|netz|ip-bereich|adressbereich|sous[- ]reseau|reseau|bloc|plage(?: ip| d.adresses)?|red|subred|bloque|rango(?: de ip)?|lan ?subnet',
  ],
  [
    'address',
    'wan (?:ip|address)(?: address)?|(?:your |static |fixed |public |customer |cpe |router )*(?:wan )?ip(?:v4)?[- ]?(?:address|addr|adresse|number)?|customer (?:side|router|end)|cpe|your (?:address|side|end)|(?:feste|offentliche|statische) (?:ip(?:v4)?(?:-adresse)?|adresse)|kundenadresse|ihre (?:ip(?:-adresse)?|adresse)|adresse(?: ip(?:v4)?)?(?: (?:fixe|publique|wan|statique))?|ip fixe|votre (?:ip|adresse)|direccion(?: ip(?:v4)?)?(?: (?:fija|publica|wan|estatica))?|ip (?:fija|publica)|su (?:ip|direccion)|address|host',
  ],
  [
    'time',
    'ntp(?:[- ]?servers?)?|time[- ]?servers?|zeitserver|serveurs? (?:ntp|de temps)|servidor(?:es)? (?:ntp|de hora)',
  ],
  [
    'vlan',
    'vlan(?:[- ]?(?:id|tag|nr|number|nummer|numero))?|802\\.1q(?: tag)?|tag(?:ged)?(?: vlan)?|etiqueta vlan',
  ],
  [
    'user',
    '(?:pppoe?[- ])?(?:user ?name|user(?:[- ]?id)?|login(?: name)?|account|benutzer(?:name|kennung)?|zugangskennung|kennung|anmeldename|identifiant(?: de connexion)?|nom d.utilisateur|utilisateur|usuario|nombre de usuario)|id de connexion',
  ],
  [
    'secret',
    '(?:pppoe?[- ])?(?:pass ?word|pass ?phrase|pass|passwort|kennwort|zugangspasswort|mot de passe|mdp|contrasena|clave|secret)',
  ],
  ['mtu', 'mtu'],
  [
    'ignore',
    'contract|customer (?:no|number|id)|kundennummer|vertragsnummer|auftragsnummer|circuit id|order|ticket|phone|tel|telefon|telephone|fax|support|hotline|reference|numero de client|numero de cliente|invoice|date|datum',
  ],
];

const COMPILED = PATTERNS.map(([field, source]) => ({
  field,
  regex: new RegExp(`(?<![a-z0-9.])(?:${source})(?![a-z0-9])`, 'g'),
}));

/** A label found in a line. */
export interface Label {
  readonly field: Field;
  readonly start: number;
  readonly end: number;
}

/** Text in lower case without accents, character for character, so that offsets stay. */
export const plain = (text: string): string =>
  [...text]
    .map((c) => {
      const bare = c
        .normalize('NFD')
        .replace(/[\u0300-\u036f]/g, '')
        .toLowerCase();
      return bare.length === c.length ? bare : c.toLowerCase().slice(0, c.length).padEnd(c.length);
    })
    .join('')
    .replace(/ß/g, 's');

/** The labels of a line in order; of those that overlap the longest stays. `line` is plain text. */
export function labelsIn(line: string): Label[] {
  const all: Label[] = [];
  for (const { field, regex } of COMPILED)
    for (const match of line.matchAll(regex))
      all.push({ field, start: match.index, end: match.index + match[0].length });
  all.sort((a, b) => b.end - b.start - (a.end - a.start));
  const kept: Label[] = [];
  for (const label of all)
    if (!kept.some((k) => label.start < k.end && k.start < label.end)) kept.push(label);
  return kept.sort((a, b) => a.start - b.start);
}
