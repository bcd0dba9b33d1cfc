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
  /** The chain of somebody else that stopped it, as `FAMILY TABLE CHAIN`: rules of other tables judge what ours let pass. */
  readonly foreign?: string;
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
  const all = text
    .split('\n')
    .map((l) => /^trace id ([0-9a-f]+) (inet|ip|ip6|bridge|netdev) (\S+) (\S+) (.*)$/.exec(l))
    .filter((m) => m?.[1] === first && !m[3]!.startsWith('gate-trace-'))
    .map((m) => {
      const isOwn = m![3] === 'gate';
      const chain = isOwn ? m![4]! : `${m![2]} ${m![3]} ${m![4]}`;
      return { isOwn, chain, rest: m![5]! };
    });
  const own = all.filter((l) => l.isOwn);
  const packets = own.filter((l) => l.rest.startsWith('packet:'));
  const word = (name: string, list = packets): string | undefined =>
    list.map((p) => new RegExp(` ${name} "?([^"\\s]+)`).exec(` ${p.rest}`)?.[1]).find((x) => x !== undefined);
  const steps = all.flatMap(({ isOwn, chain, rest }): (TraceStep & { isOwn: boolean })[] => {
    const verdict = /\(verdict ([^)]+)\)$/.exec(rest)?.[1] ?? /^(policy|verdict) (\S+)/.exec(rest)?.[2];
    if (verdict === undefined) return [];
    const comment = isOwn ? /comment "([^"]*)"/.exec(rest)?.[1] : undefined;
    if (comment === undefined && !/^(drop|reject)/.test(verdict)) return [];
    const rejected = / reject( |$)/.test(rest);
    return [{ isOwn, chain, statement: comment, verdict: rejected ? 'reject' : verdict.split(' ')[0]! }];
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
    steps: steps.map(({ isOwn: _, ...step }) => step),
    by: (last ?? letting)?.statement,
    ...(last && !last.isOwn && { foreign: last.chain }),
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
