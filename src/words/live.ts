/** What a live box does, says and lacks, in sentences. */
import type { LiveRefusal, Other, Restored, Sight } from '#core/box';
import type { Drift, RealTrace } from '#core/linux';

/** Why a box is not reached, and what to do. */
export const UNREACHED: Readonly<Record<string, string>> = {
  'no-ssh': 'there is no ssh on this machine; install OpenSSH’s client',
  'host-key-unknown':
    'its host key is not known here. `jolly-gate live meet` shows it; compare it with what the box’s console says, and accept it',
  'host-key-changed':
    'its host key is another one than before. Somebody may be in between, or the box was set up anew: compare the key at its console, and only then take the old one out with `ssh-keygen -R`',
  denied: 'it does not let this user in: wrong user, or none of your keys is known there',
  'no-route': 'there is no way to it from here: look at this machine’s own address and gateway',
  refused: 'it is there, but nothing listens for ssh at that port',
  timeout: 'it does not answer in time: it is off, elsewhere, or something in between drops it',
  unresolved: 'its name leads to no address',
  lost: 'the connection broke off; ask again what the box runs',
  'no-rights': 'this user is not root there and may not become it by sudo without being asked',
  'old-hinge':
    'this key may only call the hinge, and the hinge there is another one than ours; put the new one there with a key that may',
  'no-hinge': 'the hinge is not on this box; `jolly-gate live meet` puts it there',
  'disk-full': 'there is no room left on it',
  other: 'ssh could not get there',
};

/** Why a key that a person has compared is not remembered. */
export const NO_KEYS_KEPT =
  'your ssh configuration keeps no host keys (`UserKnownHostsFile none`), so every call would ask anew: name a file there for this box, and meet it again';

/** What a refusal means for whoever gave the order; the box adds what it saw. */
const LIVE_REFUSED: Readonly<Record<LiveRefusal, string>> = {
  'not-an-order': 'the box takes no such order',
  busy: 'the box is busy with another order; ask again in a moment',
  'disk-full': 'the box has no room left; nothing was changed',
  'read-only': 'nothing can be written on the box; nothing was changed',
  'no-nft': 'the box has no nftables; nothing was changed',
  'not-staged': 'the box does not have what it should try; nothing was changed',
  'not-whole': 'what was sent did not arrive whole; nothing was changed',
  'refused-line': 'the box does not take a line of what was sent; nothing was changed',
  'watch-only': 'the key that was used may only watch; nothing was changed',
  'trial-running': 'a trial is running: stay with it or go back first',
  'bad-time': 'a trial lasts from 5 seconds to an hour',
  'changed-meanwhile': 'somebody else changed what the box runs meanwhile: look at that first',
  rehearsal: 'the box rehearsed it and it does not hold; nothing was changed',
  timer: 'the box cannot set the timer by which it would go back; nothing was changed',
  apply: 'the box could not apply it and went back',
  'no-trial': 'no trial is running; it went back already',
  'other-trial': 'another trial is running, started elsewhere',
  'not-applied': 'the trial is not applied yet',
  'nothing-runs': 'nothing of ours runs on this box, so there is nothing to save',
  trace: 'the box cannot follow packets now',
};

/** A refusal as somebody is told it, with what the box saw. */
export const refusalText = (said: { readonly refusal: LiveRefusal; readonly detail: string }): string =>
  `${LIVE_REFUSED[said.refusal]} (${said.detail})`;

/**
 * What is to be said once the time of a trial is over by the page's own clock.
 * @param silent Whether the box does not answer.
 * @param resort When the box starts anew should it not have gone back, seconds from now; absent where nothing would start it.
 * @param now This machine's clock.
 */
export function trialOverText(silent: boolean, resort: number | undefined, now: Date): string {
  if (!silent) return 'The time is over: the box is going back to what ran before.';
  const over = 'The time is over: the box should have gone back to what ran before. Nobody has seen it';
  const desk =
    'Give this PC the address that it had before the trial, look at its cable, and go to the box’s console if it stays silent';
  if (resort === undefined) return `${over}, and it is asked on and on. ${desk}.`;
  const at = new Date(now.getTime() + resort * 1000).toLocaleTimeString('sv-SE');
  return resort > 0
    ? `${over}, and it is asked on and on. ${desk}. The last resort: if going back did not come to an end, the box starts anew by itself at ${at}, with what was saved.`
    : `${over}. If going back did not come to an end, it has started anew at ${at}, with what was saved. ${desk}.`;
}

const OTHERS: Readonly<Record<string, (how: string) => string>> = {
  client: (how) => `a DHCP client of somebody else (${how}) sets addresses and a default route there`,
  ifupdown: (how) => `ifupdown configures it (${how})`,
  networkd: (how) => `systemd-networkd configures it (${how})`,
  NetworkManager: () => 'NetworkManager configures it',
  connman: () => 'connman configures it',
  dhcpcd: () => 'dhcpcd sets addresses and a default route there',
  keepalived: () => 'a keepalived of somebody else may add addresses to it',
  nftables: (how) =>
    `whenever nftables.service loads its rules (${how}) it flushes ours, which are then put back`,
};
/** Somebody else who configures a box, and what. */
export const otherText = ({ who, device, how }: Other): string =>
  `${device ?? 'any device'}: ${OTHERS[who]?.(how ?? who) ?? `${who} configures it`}`;
/** A device of somebody else that a text leaves out. */
export const strangerText = (device: string): string =>
  `${device} has an address and the text does not name it: what comes in there is refused, and nothing is passed to it`;

/** Which of two boxes a live one is. */
export const partText = (part: Exclude<Sight['part'], ''>): string =>
  part === 'active'
    ? 'of two boxes this one is active: what they share is here'
    : 'of two boxes this one stands by: what they share is not here';

/**
 * A line of a box's log, its seconds since the start made a time of this machine's clock.
 * @param uptime The box's uptime at `now`, seconds.
 */
export function logText(line: string, uptime: number | undefined, now: Date): string {
  const [, at, rest] = /^(\d+(?:\.\d+)?) (.*)$/.exec(line) ?? [];
  if (at === undefined || rest === undefined || uptime === undefined) return line;
  const time = new Date(now.getTime() - (uptime - Number(at)) * 1000);
  // Swedes write a time as ISO 8601 does, in their own zone.
  return `${time.toLocaleString('sv-SE')} ${rest}`;
}

/** What a server of the box does, by how the name of its file begins. */
const DAEMONS: readonly (readonly [RegExp, string])[] = [
  [/^(active-)?kea4/, 'who lends addresses (Kea)'],
  [/^unbound/, 'who serves names (unbound)'],
  [/^chrony/, 'who tells the time (chrony)'],
  [/^ulogd/, 'who writes the log (ulogd)'],
  [/^ppp-/, 'the PPPoE session '],
  [/^keepalived/, 'who shares addresses with the second box (keepalived)'],
  [/^(active-)?relay$/, 'who relays to a DHCP server (dhcrelay)'],
];
/** A server by what it does; a session by its name, too. */
function daemonName(file: string): string {
  const [begins, text] = DAEMONS.find(([known]) => known.test(file)) ?? [];
  if (!begins || text === undefined) return file;
  return text.endsWith(' ') ? text + file.replace(begins, '') : text;
}

/** What of the text a box has put back by itself, by the words of its hinge. */
const RESTORED: Readonly<Record<string, string>> = {
  rules: 'the rules of passing',
  forwarding: 'forwarding',
  routing: 'rules of routing',
};
/** One time that something was gone and the box put it back; `now` is the box's uptime, seconds. */
export function restoredText({ at, what }: Restored, now: number): string {
  const names = what.map((w) => RESTORED[w] ?? daemonName(w.replace(/^jolly-gate-/, '')));
  return `gone, and put back by the box ${Math.max(0, Math.round(now - at))} s ago: ${names.join(', ')}`;
}

/** One thing that is not as the box was told. */
export function driftText(d: Drift): string {
  const at = d.interface ?? ('device' in d ? d.device : '');
  switch (d.what) {
    case 'address':
      return d.how === 'added'
        ? `${at}: somebody added the address ${d.value}`
        : `${at}: the address ${d.value} is gone`;
    case 'link':
      return d.how === 'added' ? `${at} is there and was not told` : `${at} is gone`;
    case 'up':
      return d.how === 'added' ? `${at} is on, though it is told to be off` : `${at} was switched off`;
    case 'generation':
      return 'what the box was told cannot be read there any more';
    case 'route':
    case 'foreign-route':
      return d.how === 'added' ? `somebody added the route ${d.value}` : `the route ${d.value} is gone`;
    case 'rule':
      return d.how === 'added'
        ? `somebody added the rule of routing ${d.value}`
        : `the rule of routing ${d.value} is gone`;
    case 'filter':
      return d.value === ''
        ? 'the rules of passing are gone: the box lets everything pass that its kernel lets'
        : d.how === 'added'
          ? `somebody added to the rules: ${d.value}`
          : `of the rules is gone: ${d.value}`;
    case 'mtu':
      return `${at} has an MTU of ${d.is}, and was told ${d.told}`;
    case 'setting':
      return `the setting ${d.device} is ${d.is}, and was told ${d.told}`;
    case 'mac':
      return `${at} has the MAC address ${d.is}, and was told ${d.told}`;
    case 'master':
      return d.is === '-'
        ? `${at} was taken out of ${d.told}`
        : d.told === '-'
          ? `somebody put ${at} into ${d.is}: what comes in there is not the box’s any more`
          : `${at} is in ${d.is}, and was told ${d.told}`;
    case 'keeper':
      return 'the box’s keeper is stopped: nobody watches the uplinks, or puts back what goes';
    case 'daemon':
      return `${daemonName(d.value)} is stopped`;
    case 'judge': {
      const [family = '', table = '', hooks = ''] = d.value.split(' ');
      return `a table of somebody else, ${family} ${table}, judges the same packets (${hooks.replaceAll(',', ', ')}), and refuses some`;
    }
  }
}

const LIVE_STAGES: Readonly<Record<string, Readonly<Record<string, (said: string) => string>>>> = {
  carrier: {
    pass: (s) => `${s} has carrier`,
    fail: (s) => `${s} has no carrier: look at its cable and what is at the other end`,
  },
  address: { pass: (s) => `it has ${s}`, fail: (s) => `${s} has no address` },
  'gateway-neighbour': {
    pass: (s) =>
      s === 'session' ? 'the session is up' : `its gateway answers ARP: ${s.replace(' ', ' is at ')}`,
    fail: (s) =>
      s === 'none'
        ? 'it has no gateway'
        : `nobody answers ${s.includes(':') ? 'neighbour discovery' : 'ARP'} for ${s}`,
  },
  'gateway-ping': {
    pass: (s) => `${s} answers ping`,
    fail: (s) => `${s} answers ARP, and neither ping nor anything beyond it`,
    skipped: (s) =>
      s === '-'
        ? 'a session has no gateway to ping'
        : `${s} does not answer ping, and what is beyond it does`,
  },
  'beyond-ping': {
    pass: (s) => `${s.replace(/ ([\d.]+)$/, ' answers ping in $1 ms')}`,
    fail: (s) => `the gateway answers, ${s} beyond it does not`,
    skipped: () => 'nothing is named that is beyond: give the uplink a watch',
  },
  resolver: {
    pass: (s) => `${s} answers`,
    fail: (s) => (s === 'none' ? 'no resolver is named' : `${s} does not answer`),
    skipped: () => 'the box has no `dig` to ask with (Debian: bind9-dnsutils)',
  },
  name: {
    pass: (s) => s.replace(' ', ' is '),
    fail: (s) => `${s.split(' ')[0]!} leads to no address (${s.split(' ')[1] ?? 'no answer'})`,
  },
  'name-ping': { pass: (s) => `${s} answers ping`, skipped: (s) => `${s} does not answer ping` },
  page: {
    pass: (s) => `a page came from ${s.split(' ').slice(0, 2).join(' by ')}`,
    fail: (s) => `no page comes from ${s}`,
    skipped: () => 'the box has no `curl` to ask with',
  },
  egress: { pass: (s) => `the box itself went out as ${s}` },
};

/** What the live box saw at one rung. */
export const liveStageText = (stage: string, result: string, said: string): string =>
  result === 'skipped' && said === 'resting'
    ? 'it is used on demand only, and rests while another uplink lives'
    : (LIVE_STAGES[stage]?.[result]?.(said) ?? said);

/** What became of a packet that was followed through the rules of the live box. */
export function realTraceText({ verdict, by, foreign, isOfFlow, packet }: RealTrace): string {
  const who = `${packet.from ?? '?'} to ${packet.to ?? '?'}`;
  const way = `${packet.arrivedBy ?? '?'}${packet.leftBy === undefined ? '' : ` out by ${packet.leftBy}`}`;
  const reason =
    by ??
    (foreign !== undefined
      ? `by somebody else’s chain, ${foreign}, whatever the text says`
      : isOfFlow
        ? 'it is of a flow that was let when it began'
        : 'no statement lets it');
  switch (verdict) {
    case 'passed':
      return `${who} came in by ${way} and passed: ${reason}`;
    case 'answered':
      return `${who} came in by ${way} and the box took it: ${reason}`;
    case 'dropped':
      return `${who} came in by ${way} and was dropped: ${reason}`;
    case 'rejected':
      return `${who} came in by ${way} and was rejected: ${reason}`;
  }
}

/** That secrets of logins were left out, and how to have them. */
export const secretsLeftText = (count: number): string =>
  `${count} secret${count > 1 ? 's' : ''} left out; --with-secrets keeps them`;
