/**
 * One real packet on its way through the rules of a live box, read from what `nft monitor trace` prints (nft(8), monitor):
 * which statements it met, and which one decided.
 */

/** A rule that the packet met and that had a say. */
export interface TraceStep {
  readonly chain: string;
  /** The statement, as the rule's comment calls it; absent for a rule that is of none. */
  readonly statement?: string;
  readonly verdict: string;
}

/** What became of a packet, and by whom. */
export interface RealTrace {
  /** `passed`: on to where it goes; `answered`: taken by the box itself. */
  readonly verdict: 'passed' | 'answered' | 'dropped' | 'rejected';
  readonly steps: readonly TraceStep[];
  /** The last statement that had a say; absent where it was none: nothing lets it pass, or it was asked earlier. */
  readonly by?: string;
  /** Whether it is of a flow that was let when it began: no statement is asked again (nft(8), ct state established). */
  readonly isOfFlow: boolean;
  /** Ends and devices of the packet, as the box saw it arrive. */
  readonly packet: {
    readonly from?: string;
    readonly to?: string;
    readonly arrivedBy?: string;
    readonly leftBy?: string;
  };
}

/** Reads the first packet of a trace; undefined where none came. */
export function readTrace(text: string): RealTrace | undefined {
  const first = /^trace id ([0-9a-f]+) /m.exec(text)?.[1];
  if (first === undefined) return undefined;
  const own = text
    .split('\n')
    .map((l) => /^trace id ([0-9a-f]+) (?:inet|ip|ip6) (\S+) (\S+) (.*)$/.exec(l))
    .filter((m) => m?.[1] === first && m[2] === 'gate')
    .map((m) => ({ chain: m![3]!, rest: m![4]! }));
  const packets = own.filter((l) => l.rest.startsWith('packet:'));
  const word = (name: string, list = packets): string | undefined =>
    list.map((p) => new RegExp(` ${name} "?([^"\\s]+)`).exec(` ${p.rest}`)?.[1]).find((x) => x !== undefined);
  const steps = own.flatMap(({ chain, rest }): TraceStep[] => {
    const verdict = /\(verdict ([^)]+)\)$/.exec(rest)?.[1] ?? /^(policy|verdict) (\S+)/.exec(rest)?.[2];
    if (verdict === undefined) return [];
    const comment = /comment "([^"]*)"/.exec(rest)?.[1];
    if (comment === undefined && !/^(drop|reject)/.test(verdict)) return [];
    const rejected = / reject( |$)/.test(rest);
    return [{ chain, statement: comment, verdict: rejected ? 'reject' : verdict.split(' ')[0]! }];
  });
  const last = steps.filter((s) => /^(drop|reject)/.test(s.verdict)).at(-1);
  const hooked = packets.map((p) => p.chain);
  const verdict = last
    ? last.verdict === 'reject'
      ? 'rejected'
      : 'dropped'
    : hooked.includes('forward')
      ? 'passed'
      : 'answered';
  // Statements of passing and answering let it; those of leaving only say as whom.
  const said = steps.filter((s) => s.statement !== undefined && s.verdict === 'accept');
  const letting = said.filter((s) => /^(from|answers)\//.test(s.chain)).at(-1) ?? said[0];
  return {
    verdict,
    steps,
    by: (last ?? letting)?.statement,
    isOfFlow:
      !last && own.some((l) => /^rule ct state \S*established\S* accept \(verdict accept\)$/.test(l.rest)),
    packet: {
      from: word('ip6? saddr'),
      to: word('ip6? daddr'),
      arrivedBy: word('iif'),
      leftBy: word('oif'),
    },
  };
}
