/** Why a Linux box cannot be told something, in sentences. */
import type { Lack } from '#core/linux';

export function lackText(lack: Lack): string {
  switch (lack.code) {
    case 'lease-times-differ':
      return `${lack.interface}: two pools of one network last unlike, and Kea has one time for a network. Give them the same.`;
    case 'pool-homeless':
      return `${lack.interface}: a pool lies in none of its networks, so nobody would be lent from it.`;
    case 'secret-missing':
      return `${lack.interface}: the secret of its session is not in the text, so it cannot log in.`;
    case 'relays':
      return `${lack.interface}: one relay asks for all, in table main, the same servers, and not beside pools of the box itself. Have it ask the servers that the others ask, or lend there.`;
    case 'on-demand-shared':
      return `${lack.interface}: it rests by its port being down, and others are on that port. Give it a tag or a port of its own.`;
    case 'learns-where-shared':
      return `${lack.interface}: it learns IPv6 addresses and shares addresses with a second box; networkd would take the shared ones away. Write its IPv6 addresses, or have another interface share.`;
    case 'delegated-twice':
      return `${lack.interface}: it takes a network from two uplinks, and networkd hands on one.`;
    case 'door-to-name':
      return `door ${lack.door}: it leads to ${lack.known}, which has a name, and a door leads to one address. Write that.`;
    case 'carrier-unread':
      return `${lack.interface}: it is on no port that could be read.`;
    case 'too-many':
      return `there are more than ${lack.most} ${lack.what}.`;
  }
}
