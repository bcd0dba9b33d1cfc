/** How a machine asks another for a service. */
import { PROTO, familyOf } from '#core/addr';
import type { FlowService, Ip } from '#core/addr';
import type { Attempt, Bench } from '#core/bench';
import { namedFar } from './targets';

export type Endpoints = Bench['box']['endpoints'];

/** Octets that a connection must carry there and back to count as one. */
const CARRIED = 64;
/** The port of name servers (RFC 1035 §4.2). */
const NAMES = 53;

/** Begins one flow of a service. Whoever is asked on the port of name servers is asked for a name. */
export function askFor(
  bench: Bench,
  ends: Endpoints,
  to: Ip,
  service: FlowService,
  options: Parameters<Endpoints['ping']>[1],
): Attempt {
  const { proto, port } = service;
  if (proto === PROTO.tcp) return ends.connect(to, port!, CARRIED, options);
  if (proto === PROTO.udp && port === NAMES) {
    const family = familyOf(to);
    return ends.resolve(to, namedFar(bench, family).name, options, undefined, family);
  }
  if (proto === PROTO.udp) return ends.ask(to, port!, new Uint8Array(4), options);
  return service.echo ? ends.ping(to, options) : ends.raw(to, proto, options);
}
