/** The words by which providers label what is on their sheets, in ten languages. */

/** What a label announces. */
export type Field =
  | 'address'
  | 'further'
  | 'reserved'
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

/** Who is at the provider's end and who at the customer's, behind "IP address" or before "side". */
const THEIRS =
  'provider|isp|carrier|anbieters?|betreibers?|netzbetreibers?|gegenstelle|operateur|fournisseur|operador|proveedor|aanbieder|operatora|dostawcy|operatore|fornitore|gestore|operadora|fornecedor|poskytovatele|operatora|leverantor(?:ens)?|operator(?:ens)?|pe';
const OURS =
  'customer|client|kunden?|kundenseitig|ce|cpe|your|ihre?|votre|tu|su|klant|uw|klienta|cliente|clients?|zakaznika|kundens?|wan';

/**
 * Patterns by field, a line a language or two; all are tried on lower-case text without accents, and the longest match
 * at a place wins.
 */
const PATTERNS: readonly (readonly [Field, readonly string[]])[] = [
  [
    'gateway',
    [
      'default gateways?|default routers?|default route|gateway(?:s)?(?: ip| ipv[46]| address)?|gate way|next[ -]hop|provider router|our router|router(?: ip| address)?|gw|def\\.? gw|(?:ipv6|v6)[- ](?:default )?gateway',
      `(?:${THEIRS})(?:'s)?[- ](?:ip(?:v[46])?[- ]?(?:address|adresse)?|side|end|address|router)|ip(?:v4)?[- ]?(?:address|adresse|adres)[- ](?:${THEIRS})|(?:adresse|indirizzo|direccion|endereco|adres|adresa) ip (?:${THEIRS})|ip (?:${THEIRS})`,
      'standard-?gateway(?:-adresse)?|gateway-adresse|ipv6-gateway',
      'passerelle(?: par defaut| ipv6)?|routeur(?: operateur)?',
      'puerta de enlace(?: predeterminada)?|pasarela',
      'standaard-?gateway|standaardgateway',
      'brama(?: domyslna)?|bramka',
      'gateway predefinito|gateway di default',
      'gateway padrao|porta de ligacao|gateway predefinido',
      'vychozi brana|brana',
      'standardgateway|standardgatewayen',
    ],
  ],
  [
    'mask',
    [
      'subnet ?masks?|sub-net mask|net ?masks?|network mask|mask|prefix[ -]?length|cidr',
      'subnetzmaske|netzmaske|netz-?maske|maske|prafixlange|prefixlange',
      'masque(?: de sous[- ]reseau| reseau)?|longueur de prefixe|longueur du prefixe',
      'mascara(?: de (?:sub)?red(?:e)?)?|longitud de prefijo|longitud del prefijo',
      'subnetmasker|netmasker|prefixlengte',
      'maska(?: podsieci| sieci)?|dlugosc prefiksu',
      'maschera(?: di (?:sotto)?rete)?|subnet mask|lunghezza (?:del )?prefisso',
      'mascara de sub-?rede|comprimento do prefixo',
      'maska(?: podsite| site)?|delka prefixu',
      'natmask|subnatmask|prefixlangd',
    ],
  ],
  [
    'names',
    [
      '(?:primary|secondary|preferred|alternate|first|second|1st|2nd|bevorzugter|alternativer|primarer|sekundarer|erster|zweiter|primaire|secundaire|primair|secundair) (?:dns|name ?server|resolver)(?:[- ]server)?',
      'dns[- ]?(?:servers?|resolvers?|adressen?|primaire|secondaire|primario|secundario|secondario|primar|sekundar|[12])?(?: [12])?|name ?servers?(?: [12])?|nameserver|resolvers?|for names(?: use)?|ns[12]?',
      'serveurs? (?:dns|de noms)(?: (?:primaire|secondaire))?',
      'servidor(?:es)? (?:de )?(?:dns|nombres|nomes)(?: (?:primario|secundario))?',
      'naamservers?|dns-servers?',
      'serwer(?:y|ow)? (?:dns|nazw)(?: (?:podstawowy|zapasowy))?|(?:podstawowy|zapasowy) (?:serwer )?dns',
      'server dns(?: (?:primario|secondario))?|dns (?:primario|secondario)',
      'dns servery?|(?:primarni|sekundarni) dns|servery? dns',
      'namnservrar|namnserver|dns-servrar|dns-server',
    ],
  ],
  [
    'usable',
    [
      'usable (?:ip )?(?:addresses|range|ips|hosts?)|usable|available (?:ips|addresses)|customer range|your range',
      'nutzbare? (?:adressen|ips|ip-adressen|bereich)|nutzbar(?:er bereich)?|verwendbare? (?:adressen|ip-adressen)',
      'adresses? (?:ip )?utilisables?|plage utilisable|utilisables?',
      'direcciones (?:ip )?utilizables|rango utilizable|utilizables|ips disponibles',
      'bruikbare (?:ip-)?adressen|bruikbaar bereik',
      'adresy (?:ip )?(?:uzytkowe|dostepne|do wykorzystania)|zakres uzytkowy',
      'indirizzi (?:ip )?utilizzabili|intervallo utilizzabile',
      'enderecos (?:ip )?utilizaveis|intervalo utilizavel',
      'pouzitelne (?:ip )?adresy|pouzitelny rozsah',
      'anvandbara (?:ip-)?adresser',
    ],
  ],
  [
    'further',
    [
      '(?:additional|further|extra|secondary|more|spare) (?:static |public |on-?link |ip(?:v4)? ){0,4}(?:ip(?:v4)?s?(?: addresses?| address)?|addresses|address)',
      '(?:weitere|zusatzliche) (?:ip-?)?adressen?|(?:weitere|zusatzliche) ips?',
      'adresses? (?:ip )?(?:supplementaires?|additionnelles?)',
      'direcciones? (?:ip )?adicional(?:es)?|ips adicionales',
      'extra (?:ip-)?adressen|aanvullende (?:ip-)?adressen',
      'dodatkowe adresy(?: ip)?',
      'indirizzi (?:ip )?aggiuntivi',
      'enderecos (?:ip )?adicionais',
      'dalsi (?:ip )?adresy',
      'ytterligare (?:ip-)?adresser|extra ip-adresser',
    ],
  ],
  [
    'reserved',
    [
      'reserved (?:ip )?address|reservation|reserved ip|reservierte (?:ip-)?adresse|adresse reservee|direccion reservada|gereserveerd (?:ip-)?adres|adres zarezerwowany|zarezerwowany adres|indirizzo riservato|endereco reservado|rezervovana adresa|reserverad (?:ip-)?adress',
    ],
  ],
  [
    'broadcast',
    [
      'broadcast(?: address|-adresse|adres)?|adresse de diffusion|direccion de difusion|difusion|diffusion|adres rozgloszeniowy|indirizzo di broadcast',
    ],
  ],
  [
    'routed',
    [
      '(?:routed|additional|extra|delegated) (?:ipv[46] )?(?:block|subnet|network|prefix|range)|(?:ipv6 )?prefix delegation|delegated prefix',
      'geroutetes (?:netz|subnetz|prafix)|zusatzliches (?:netz|subnetz)|delegiertes prafix',
      'bloc route|sous-reseau route|prefixe delegue|bloque enrutado|subred enrutada|prefijo delegado',
      'gerouteerd (?:blok|subnet|netwerk|prefix)|gerouteerde (?:blok|subnet)',
      'siec routowana|podsiec routowana|blok routowany|trasowan[ay] (?:siec|podsiec|blok)',
      'blocco instradato|rete instradata|sottorete instradata|bloco encaminhado|rede encaminhada|sub-rede encaminhada',
      'smerovany blok|smerovana sit|smerovany rozsah|routat (?:nat|block|subnat)',
    ],
  ],
  [
    'network',
    [
      'network(?: address| id)?|subnet(?: address)?|ip[- ](?:block|range|subnet|network|netz)|address block|public block|block|(?:ipv6 )?prefix|assigned (?:range|subnet|block|network)|lan ?subnet|(?:transfer|transit|link) (?:network|net|subnet)',
      'netzwerk(?:adresse)?|netzadresse|subnetz|netz|ip-bereich|adressbereich|transfernetz|prafix',
      'sous[- ]reseau|reseau|bloc|plage(?: ip| d.adresses)?|prefixe',
      'red|subred|bloque|rango(?: de ip)?|prefijo',
      'netwerk(?:adres)?|subnet|ip-blok|blok',
      'siec|podsiec|adres sieci|blok(?: adresow)?',
      'rete|sottorete|blocco|indirizzo di rete|rede|sub-?rede|bloco|endereco de rede',
      'sit|podsit|rozsah|natverk|subnat',
    ],
  ],
  [
    'address',
    [
      `wan[- ]?(?:ip|address)(?:[- ]?(?:address|adresse?|adress))?|(?:your |static |fixed |public |customer |cpe |router |main |primary ){0,4}(?:wan )?(?:ip(?:v[46])?[- ]?(?:address|addr|adresse|number)?|ipv[46])|customer (?:side|router|end)|cpe|your (?:address|side|end)|address|host`,
      `ip(?:v[46])?[- ]?(?:addresses|adressen|adresses|adresser)`,
      `ip(?:v4)?[- ]?(?:address|adresse|adres|adress)[- ](?:${OURS})|(?:${OURS})[- ](?:ip(?:v[46])?[- ]?(?:address|adresse|adres|adress)?|side|end|address)`,
      '(?:feste|offentliche|statische) (?:ip(?:v[46])?(?:-adresse)?|adresse)|kundenadresse|ihre (?:ip(?:-adresse)?|adresse)',
      'adresse(?: ip(?:v[46])?)?(?: (?:fixe|publique|wan|statique|client))?|ip fixe|votre (?:ip|adresse)',
      'direccion(?: ip(?:v[46])?)?(?: (?:fija|publica|wan|estatica|cliente))?|ip (?:fija|publica)|su (?:ip|direccion)',
      '(?:vast |statisch |publiek |uw )?ip-?(?:v[46]-?)?adres|(?:vast|uw) (?:ip|adres)|klantadres',
      '(?:staly |publiczny |twoj )?adres(?: ip(?:v[46])?)?(?: (?:staly|publiczny|wan|klienta))?|ip klienta',
      'indirizzo(?: ip(?:v[46])?)?(?: (?:fisso|pubblico|statico|wan|cliente))?|ip (?:statico|pubblico)',
      'endereco(?: ip(?:v[46])?)?(?: (?:fixo|publico|estatico|wan|cliente))?|ip (?:fixo|publico)',
      '(?:pevna |verejna |vase )?(?:ip )?adresa(?: ip)?|ip zakaznika',
      '(?:fast |publik |er )?ip(?:v[46])?-?adress|kundadress|adress',
    ],
  ],
  [
    'time',
    [
      'ntp(?:[- ]?servers?)?|time[- ]?servers?|zeitserver|serveurs? (?:ntp|de temps)|servidor(?:es)? (?:ntp|de hora)|tijdservers?|serwer(?:y)? (?:ntp|czasu)|server ntp|tidsservrar|tidsserver|casovy server',
    ],
  ],
  [
    'vlan',
    [
      '(?:service |access |internet |wan )?vlan(?:[- ]?(?:id|tag|nr|number|nummer|numero|numer|cislo))?|802\\.1q(?: tag)?|tag(?:ged)?(?: vlan)?|etiqueta vlan',
    ],
  ],
  [
    'user',
    [
      '(?:pppoe?[- ])?(?:user ?name|user(?:[- ]?id)?|login(?: name)?|account|benutzer(?:name|kennung)?|zugangskennung|kennung|anmeldename|identifiant(?: de connexion)?|nom d.utilisateur|utilisateur|usuario|nombre de usuario|gebruikersnaam|gebruiker|nazwa uzytkownika|uzytkownik|login|nome utente|utente|nome de utilizador|utilizador|nome de usuario|uzivatelske jmeno|uzivatel|anvandarnamn|anvandare)|id de connexion',
    ],
  ],
  [
    'secret',
    [
      '(?:pppoe?[- ])?(?:pass ?word|pass ?phrase|pass|passwort|kennwort|zugangspasswort|mot de passe|mdp|contrasena|clave|secret|wachtwoord|haslo|parola d.accesso|parola chiave|palavra-?passe|senha|heslo|losenord)',
    ],
  ],
  ['mtu', ['mtu']],
  [
    'ignore',
    [
      'contract|customer (?:no|number|id)|kundennummer|vertragsnummer|auftragsnummer|circuit id|order|ticket|phone|tel|telefon|telephone|fax|support|hotline|reference|numero de client|numero de cliente|invoice|date|datum|klantnummer|contractnummer|telefoon|numer klienta|numer umowy|codice cliente|numero cliente|numero de contrato|smlouva|kundnummer|avtal',
    ],
  ],
];

const COMPILED = PATTERNS.map(([field, sources]) => ({
  field,
  regex: new RegExp(`(?<![a-z0-9.@])(?:${sources.join('|')})(?![a-z0-9@])`, 'g'),
}));

/** A label found in a line. */
export interface Label {
  readonly field: Field;
  readonly start: number;
  readonly end: number;
}

const LETTERS: Readonly<Record<string, string>> = { ł: 'l', ø: 'o', đ: 'd', ß: 's', ı: 'i' };

/** Text in lower case without accents, character for character, so that offsets stay. */
export const plain = (text: string): string =>
  [...text]
    .map((c) => {
      const small = c.toLowerCase();
      const bare = LETTERS[small] ?? small.normalize('NFD').replace(/[\u0300-\u036f]/g, '');
      return bare.length === c.length ? bare : small.slice(0, c.length).padEnd(c.length);
    })
    .join('');

/** The labels of a line in order; of those that overlap the longest stays. `line` is plain text. */
export function labelsIn(line: string): Label[] {
  const all: Label[] = [];
  for (const { field, regex } of COMPILED)
    for (const match of line.matchAll(regex))
      all.push({ field, start: match.index, end: match.index + match[0].length });
  all.sort((a, b) => b.end - b.start - (a.end - a.start));
  // Which characters a longer label has already: a lookup, so that a line of many labels costs what it is long.
  const taken = new Uint8Array(line.length);
  const kept: Label[] = [];
  for (const label of all) {
    if (taken[label.start] || taken[label.end - 1]) continue;
    taken.fill(1, label.start, label.end);
    kept.push(label);
  }
  return kept.sort((a, b) => a.start - b.start);
}
